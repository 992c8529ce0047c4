import promises from 'node:fs/promises'
import { syncBuiltinESMExports } from 'node:module'

type Asking = (path: unknown, ...others: unknown[]) => Promise<unknown>

let hung: string | null = null
let answer = (): void => undefined
let answering: Promise<void> = Promise.resolve()
let isSet = false

/**
 * Makes everything that this process asks of the disk below a path wait, as a network share does whose server is gone;
 * null lets all of it be answered.
 */
export function hang(below: string | null): void {
  if (!isSet) setUp()
  answer()
  hung = below
  if (below !== null)
    answering = new Promise((resolve) => {
      answer = resolve
    })
}

function setUp(): void {
  isSet = true
  const asked = promises as unknown as Record<string, Asking>
  for (const name of ['access', 'lstat', 'open', 'readdir', 'readFile', 'realpath', 'stat', 'statfs']) {
    const ask = asked[name] as Asking
    asked[name] = async (path, ...others) => {
      if (hung !== null && typeof path === 'string' && (path === hung || path.startsWith(`${hung}/`))) await answering
      return ask(path, ...others)
    }
  }
  // What imported them by name asks so from now on as well.
  syncBuiltinESMExports()
}
