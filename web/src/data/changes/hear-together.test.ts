import { beforeEach, expect, test } from '@jest/globals'
import { standingClock } from '../../testing/clock.ts'
import type { Heard } from './hear-server.ts'
import { hearTogether } from './hear-together.ts'

/** What hears for all windows, as one of them has it. */
class Shared {
  static readonly all: Shared[] = []
  onerror: (() => void) | null = null
  readonly said: unknown[] = []
  readonly port = {
    isOpen: true,
    onmessage: null as ((message: { data: Heard }) => void) | null,
    postMessage: (words: unknown) => this.said.push(words),
    close() {
      this.isOpen = false
    },
  }
  constructor() {
    Shared.all.push(this)
  }
  tell(kind: 'heard' | 'here' | 'waits'): void {
    this.port.onmessage?.({ data: { kind } })
  }
}

const lines: EventTarget[] = []
class Line extends EventTarget {
  onopen: (() => void) | null = null
  constructor() {
    super()
    lines.push(this)
  }
  close(): void {
    lines.splice(lines.indexOf(this), 1)
  }
}

const pass = standingClock()
let heard: string[] = []
const hear = ({ kind }: Heard): number => heard.push(kind)
const newest = (): Shared => Shared.all.at(-1) as Shared

beforeEach(() => {
  Shared.all.length = 0
  lines.length = 0
  heard = []
  const page = new EventTarget()
  Object.assign(globalThis, {
    ...{ SharedWorker: Shared, EventSource: Line },
    addEventListener: page.addEventListener.bind(page),
    removeEventListener: page.removeEventListener.bind(page),
  })
})

test('what hears for all windows is told the address, and left when the window goes', () => {
  const stop = hearTogether('/api/changes', hear)
  newest().tell('heard')
  expect(heard).toEqual(['heard'])
  stop()
  expect(newest().said).toEqual([{ address: '/api/changes' }, { goes: true }])
  expect(newest().port.isOpen).toBe(false)
  pass(200_000)
  expect(Shared.all).toHaveLength(1)
})

test('where it never says a word, or its code cannot be had, a window hears by itself', () => {
  hearTogether('/api/changes', hear)
  pass(15_000)
  expect(lines).toHaveLength(1)
  const stop = hearTogether('/api/changes', hear)
  newest().onerror?.()
  expect(lines).toHaveLength(2)
  stop()
  expect(lines).toHaveLength(1)
})

test('one that says that the server is there is listened to, one that ended is begun anew', () => {
  const stop = hearTogether('/api/changes', hear)
  newest().tell('heard')
  for (let beat = 0; beat < 10; beat++) {
    pass(15_000)
    newest().tell('here')
  }
  expect(Shared.all).toHaveLength(1)
  pass(60_000)
  expect(Shared.all.map(({ port }) => port.isOpen)).toEqual([false, true])
  // What was missed meanwhile is read when the next says that it hears.
  newest().tell('heard')
  expect(heard.at(-1)).toBe('heard')
  stop()
  expect(newest().port.isOpen).toBe(false)
  expect(lines).toHaveLength(0)
})
