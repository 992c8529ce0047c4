import { beforeAll, expect, jest, test } from '@jest/globals'
import { ask, ifSoon, NotAnswering, usePatience } from './answering.ts'

beforeAll(() => usePatience(3))

const never = <T>(): { question: () => Promise<T>; answer: (value: T) => void } => {
  let answer!: (value: T) => void
  const promise = new Promise<T>((resolve) => {
    answer = resolve
  })
  return { question: () => promise, answer }
}
const seconds = (count: number) => new Promise((resolve) => setTimeout(resolve, count * 1000))
const told = (asking: Promise<unknown>): Promise<unknown> => asking.catch((error: Error) => error)

test('what is answered is answered, also late, and what fails fails as it does', async () => {
  await expect(ask('/here', async () => 7)).resolves.toBe(7)
  await expect(ask('/here', () => Promise.reject(new Error('none')))).rejects.toThrow('none')
  const late = never<number>()
  const asking = ask('/late', late.question)
  await seconds(1.5)
  late.answer(8)
  await expect(asking).resolves.toBe(8)
})

test('what hangs is given up; nothing else is asked of it until it answers, and of others all', async () => {
  const hung = never<number>()
  const asking = told(ask('/share', hung.question))
  const error = await asking
  expect(error).toBeInstanceOf(NotAnswering)
  expect((error as Error).message).toContain('/share does not answer: its share or disk hangs.')
  const next = jest.fn(async () => 9)
  await expect(ask('/share', next)).rejects.toThrow(NotAnswering)
  expect(next).not.toHaveBeenCalled()
  await expect(ask('/drive', next)).resolves.toBe(9)
  hung.answer(1)
  await seconds(0)
  await expect(ask('/share', next)).resolves.toBe(9)
})

test('of many that ask at once a handful waits, and the others hear of it with them', async () => {
  const hung = never<number>()
  const question = jest.fn(hung.question)
  const asking = Array.from({ length: 50 }, () => told(ask('/many', question)))
  for (const error of await Promise.all(asking)) expect(error).toBeInstanceOf(NotAnswering)
  expect(question).toHaveBeenCalledTimes(4)
  hung.answer(1)
  await seconds(0)
  await expect(ask('/many', async () => 2)).resolves.toBe(2)
})

test('a question that asks the same on its way is one question, however many are asked at once', async () => {
  const nested = () => ask('/nested', () => ask('/nested', () => ask('/other', async () => 5)))
  await expect(Promise.all(Array.from({ length: 30 }, nested))).resolves.toEqual(Array(30).fill(5))
})

test('a page goes without what is not there in a moment', async () => {
  const hung = never<number>()
  const soon = ifSoon(ask('/slow', hung.question))
  await expect(soon).resolves.toBeNull()
  await expect(ifSoon(Promise.resolve(3))).resolves.toBe(3)
  await expect(ifSoon(Promise.reject(new Error('none')))).resolves.toBeNull()
  hung.answer(1)
})
