import { afterEach, beforeEach } from '@jest/globals'

/**
 * Gives each test of a file a clock that stands until it is moved on.
 * @returns lets so many milliseconds pass, and what is due by then happen
 */
export function standingClock(): (milliseconds: number) => void {
  const real = { setTimeout, clearTimeout }
  let now = 0
  let due: { at: number; run: () => void }[] = []
  beforeEach(() => {
    now = 0
    due = []
    Object.assign(globalThis, {
      setTimeout: (run: () => void, milliseconds: number) => {
        const timer = { at: now + milliseconds, run }
        due.push(timer)
        return timer
      },
      clearTimeout: (timer: unknown) => {
        due = due.filter((other) => other !== timer)
      },
    })
  })
  afterEach(() => {
    Object.assign(globalThis, real)
  })
  return (milliseconds) => {
    now += milliseconds
    for (const timer of due.filter(({ at }) => at <= now)) {
      due = due.filter((other) => other !== timer)
      timer.run()
    }
  }
}
