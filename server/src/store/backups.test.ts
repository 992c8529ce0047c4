import { expect, test } from '@jest/globals'
import { fromBackups, hasChanged, heldContent } from './backups.ts'

const file = (change: object = {}) => ({
  ...{ id: 'own', fingerprint: 'tide', firstFingerprint: 'tide', presence: 'here' as const, problem: null },
  ...{ volume: { kind: 'drive' } },
  ...change,
})
const away = file({ presence: 'away' })
const standIn = (copy: ReturnType<typeof file>) =>
  fromBackups([{ file: away }], [{ file: copy, isVerified: true }]).own[0]?.file

test('a copy stands in for a file that is away, while it is here, whole, and has its content', () => {
  const copy = file({ id: 'copy' })
  // The very same object: what is assembled of it is assembled once.
  expect(standIn(copy)).toBe(copy)
  for (const other of [{ presence: 'gone' }, { problem: 'no picture' }, { fingerprint: 'wheel' }])
    expect(standIn({ ...copy, ...other } as typeof copy)).toBe(away)
  expect(standIn({ ...copy, volume: { kind: 'card' } })).toBe(away)
  expect(fromBackups([{ file: away }], [{ file: copy, isVerified: false }]).own[0]?.file).toBe(away)
})

test('what a copy held before it was one is not told of the clip that it stands in for', () => {
  const copy = file({ id: 'copy', firstFingerprint: 'wheel' })
  expect(hasChanged(copy)).toBe(true)
  const shown = standIn(copy)
  expect(shown).toMatchObject({ id: 'copy', fingerprint: 'tide' })
  expect(hasChanged(shown ?? copy)).toBe(false)
})

test('nothing stands in for a file that has changed; it is held to be what it was first, or was accepted to be', () => {
  const changed = file({ presence: 'away', fingerprint: 'tide, regraded' })
  const copy = file({ id: 'copy', fingerprint: 'tide, regraded' })
  expect(fromBackups([{ file: changed }], [{ file: copy, isVerified: true }]).own[0]?.file).toBe(changed)
  expect([heldContent(changed), heldContent({ ...changed, firstFingerprint: null })]).toEqual([
    'tide',
    'tide, regraded',
  ])
})
