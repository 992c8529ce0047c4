import { expect, test } from '@jest/globals'
import { Echoes } from './echoes.ts'

test('what was sent is known when it comes back, late or not at all', () => {
  const echoes = new Echoes()
  echoes.send('B')
  echoes.send('B0')
  echoes.send('B00')
  expect(echoes.isOwn('B0')).toBe(true)
  expect(echoes.isOwn('B00')).toBe(true)
  expect(echoes.isOwn('B00')).toBe(false)
})

test('what comes from elsewhere is not', () => {
  const echoes = new Echoes()
  echoes.send('B0')
  expect(echoes.isOwn('')).toBe(false)
  expect(echoes.isOwn('A')).toBe(false)
})
