import { beforeEach, expect, test } from '@jest/globals'
import { standingClock } from '../../testing/clock.ts'
import { type Heard, hearServer } from './hear-server.ts'

/** A line to a server, which says what the test lets it say. */
class Line extends EventTarget {
  static readonly all: Line[] = []
  isOpen = true
  onopen: (() => void) | null = null
  onerror: (() => void) | null = null
  onmessage: ((message: { data: string }) => void) | null = null
  constructor(readonly address: string) {
    super()
    Line.all.push(this)
  }
  close(): void {
    this.isOpen = false
  }
}

const newest = (): Line => Line.all.at(-1) as Line
let heard: string[] = []
const hear = (one: Heard): number => heard.push(one.kind === 'change' ? one.text : one.kind)

const pass = standingClock()

beforeEach(() => {
  Line.all.length = 0
  heard = []
  Object.assign(globalThis, { EventSource: Line })
})

test('changes are told as they come, and that the server is heard', () => {
  const stop = hearServer('/api/changes', hear)
  expect(newest().address).toBe('/api/changes')
  newest().onopen?.()
  newest().onmessage?.({ data: 'clips' })
  newest().dispatchEvent(new Event('reconnected'))
  expect(heard).toEqual(['heard', 'clips', 'heard'])
  stop()
  expect(newest().isOpen).toBe(false)
})

test('a line that fails is begun anew, as often as it does, also one that the browser gives up', () => {
  hearServer('/api/changes', hear)
  newest().onopen?.()
  for (let turn = 2; turn <= 4; turn++) {
    newest().onerror?.()
    expect(newest().isOpen).toBe(false)
    pass(1000)
    expect(Line.all).toHaveLength(turn)
  }
  newest().onopen?.()
  expect(heard).toEqual(['heard', 'unheard', 'unheard', 'unheard', 'heard'])
})

test('a line on which nothing is said is given up, one on which the server says that it is there is not', () => {
  hearServer('/api/changes', hear)
  newest().onopen?.()
  for (let beat = 0; beat < 10; beat++) {
    pass(15_000)
    newest().dispatchEvent(new Event('here'))
  }
  const untilNow = ['heard', ...Array.from({ length: 10 }, () => 'here')]
  expect(heard).toEqual(untilNow)
  expect(Line.all).toHaveLength(1)
  pass(40_000)
  expect(heard).toEqual([...untilNow, 'unheard'])
  pass(1000)
  expect(Line.all.map(({ isOpen }) => isOpen)).toEqual([false, true])
})

test('what was stopped begins nothing anew', () => {
  const stop = hearServer('/api/changes', hear)
  newest().onerror?.()
  stop()
  pass(100_000)
  expect(Line.all).toHaveLength(1)
})
