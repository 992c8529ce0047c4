import { expect, test } from '@jest/globals'
import { OtherKinds } from './index.ts'

test('files of an ending that nobody reads are told when they are as large as pictures are', () => {
  const kinds = new OtherKinds()
  for (const name of ['A001.RAWX', 'A002.rawx', 'noise']) kinds.add(name, 4_000_000_000)
  for (const name of ['A001.xml', 'A002.xml']) kinds.add(name, 20_000)
  kinds.add('stills.zip', 9_000_000_000)
  expect(kinds.mayBeMedia()).toEqual([
    { ending: '.rawx', files: 2, bytes: 8_000_000_000 },
    { ending: '', files: 1, bytes: 4_000_000_000 },
  ])
})

test('picture and sound by their ending are told, however small they are', () => {
  const kinds = new OtherKinds()
  for (const name of ['song.OGG', 'title.psb', 'list.edl']) kinds.add(name, 3000)
  expect(kinds.mayBeMedia().map(({ ending }) => ending)).toEqual(['.ogg', '.psb'])
})

test('many small ones do not become large together', () => {
  const kinds = new OtherKinds()
  for (let index = 0; index < 10_000; index++) kinds.add(`${index}.idx`, 4096)
  expect(kinds.mayBeMedia()).toEqual([])
})
