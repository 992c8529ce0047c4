import { expect, test } from '@jest/globals'
import { QueryClient, QueryObserver } from '@tanstack/react-query'
import { readAgain } from './read-again.ts'

const settled = () => new Promise((resolve) => setTimeout(resolve, 0))

test('a first reading that was answered before a change is read once more', async () => {
  const queries = new QueryClient()
  const answers: ((answer: string) => void)[] = []
  const observer = new QueryObserver(queries, {
    queryKey: ['volumes'],
    queryFn: () => new Promise<string>((resolve) => answers.push(resolve)),
  })
  const stop = observer.subscribe(() => {})
  await settled()
  readAgain(queries, ({ queryKey }) => queryKey[0] === 'volumes')
  await settled()
  expect(answers).toHaveLength(1)
  answers[0]?.('never scanned')
  await settled()
  await settled()
  expect(answers).toHaveLength(2)
  answers[1]?.('2 clips')
  await settled()
  expect(observer.getCurrentResult().data).toBe('2 clips')
  // What is read already is begun anew at once, and nothing else is.
  readAgain(queries, ({ queryKey }) => queryKey[0] === 'clips')
  readAgain(queries)
  await settled()
  expect(answers).toHaveLength(3)
  answers[2]?.('3 clips')
  await settled()
  await settled()
  expect([answers.length, observer.getCurrentResult().data]).toEqual([3, '3 clips'])
  stop()
  queries.clear()
})
