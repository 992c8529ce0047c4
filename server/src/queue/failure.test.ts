import { expect, test } from '@jest/globals'
import { FolderLeft } from '../disk/held-folder.ts'
import { waitsIfGone } from './failure.ts'

test.each([
  ['a root that is not there', Object.assign(new Error('no'), { code: 'ENOENT' }), true],
  ['a root that left while it was read', new FolderLeft('/media/A001', 'is not there any more.'), true],
  ['a share that has gone', Object.assign(new Error('no'), { code: 'ENOTCONN' }), true],
  ['a folder that may not be read', Object.assign(new Error('no'), { code: 'EACCES' }), false],
])('%s', (_, error, waits) => {
  expect(waitsIfGone(error, 'volume')).toEqual(waits ? { waitsForVolume: 'volume' } : {})
})
