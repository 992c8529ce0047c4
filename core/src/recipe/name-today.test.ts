import { expect, test } from '@jest/globals'
import { nameToday } from './index.ts'

const twin = {
  container: 'mov',
  folders: { kind: 'mirrored', levels: null },
  namePattern: '{source}',
  suffix: '_proxy',
} as const
const values = {
  source: 'A001C007',
  reel: 'A001',
  scene: '12',
  take: '3',
  day: '',
  camera: 'A',
  production: 'Low Water',
}

test('an original that was renamed leaves its proxy behind, and one that was not does not', () => {
  expect(nameToday(twin, values, 'A001C001_proxy.mov')).toBe('A001C007_proxy.mov')
  expect(nameToday(twin, values, 'A001C007_proxy.mov')).toBeNull()
  expect(nameToday(twin, { ...values, source: 'Mühle' }, 'MU\u0308HLE_proxy.MOV')).toBeNull()
})

test('a suffix that went missing is part of the name, and the ending stays what the file has', () => {
  expect(nameToday(twin, values, 'A001C007.mp4')).toBe('A001C007_proxy.mp4')
})

test('a corrected scene changes names that are built of it', () => {
  const built = { ...twin, namePattern: '{scene}_{take}_{source}', suffix: '' }
  expect(nameToday(built, values, '11_3_A001C007.mov')).toBe('12_3_A001C007.mov')
  expect(nameToday({ ...built, namePattern: '{day}' }, values, 'x.mov')).toBeNull()
})

test('nothing is renamed that says its name inside, that was taken in by its place, or that was counted', () => {
  expect(nameToday({ ...twin, container: 'mxf-op-atom' }, values, 'X_V1.mxf')).toBeNull()
  const numbered = { kind: 'numbered', root: 'media/files', filesPerFolder: 100 } as const
  expect(nameToday({ ...twin, folders: numbered }, values, 'X.mov')).toBeNull()
  expect(nameToday({ ...twin, namePattern: '{source}_{counter:3}' }, values, 'X_001.mov')).toBeNull()
})

test('a name that no disk holds is none', () => {
  expect(nameToday(twin, { ...values, source: 'x'.repeat(250) }, 'A.mov')).toBeNull()
})
