import { describe, expect, test } from '@jest/globals'
import { isLost, isNoRoom } from './disk/system-error.ts'
import { explainFailure, explainFileError, isFileError } from './errors.ts'

const failure = (code: string, syscall = 'read') =>
  Object.assign(new Error(`${code}: words of the system`), { code, syscall })

describe('a failure of a disk in plain words', () => {
  // The runtime has names for some errors of the system alone: these come as numbers (errno(3)).
  test.each([
    ['Unknown system error -122', /^There is no space left to write clip\.mov\./, { isNoRoom: true, isLost: false }],
    ['ENOSPC', /^There is no space left to write clip\.mov\./, { isNoRoom: true, isLost: false }],
    ['Unknown system error -116', /^clip\.mov cannot be reached: its disk or share/, { isNoRoom: false, isLost: true }],
    ['ENOTCONN', /^clip\.mov cannot be reached: its disk or share/, { isNoRoom: false, isLost: true }],
    ['Unknown system error -117', /the file system of its disk is damaged/, { isNoRoom: false, isLost: false }],
    ['ENOENT', /^clip\.mov does not exist\.$/, { isNoRoom: false, isLost: false }],
  ])('%s', (code, words, are) => {
    const error = failure(code)
    expect(explainFileError(error, 'clip.mov')).toMatch(words)
    expect({ isNoRoom: isNoRoom(error), isLost: isLost(error) }).toEqual(are)
    expect(isFileError(error)).toBe(true)
  })

  test('of a file without a name it is told what is the matter with the disk', () => {
    expect(explainFailure(failure('ENOSPC', 'write'))).toMatch(/^There is no space left on the disk\. Free some/)
    expect(explainFailure(failure('EIO', 'write'))).toMatch(/^The disk cannot be read or written/)
  })

  test('what a connection met, and what is no error of the system, says nothing of a disk', () => {
    expect(isFileError(failure('ETIMEDOUT', 'connect'))).toBe(false)
    expect(isFileError(failure('Unknown system error -999'))).toBe(false)
    expect(isFileError(new Error('no code'))).toBe(false)
    expect(isFileError(null)).toBe(false)
  })
})
