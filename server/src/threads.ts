import { Piscina } from 'piscina'
import { programOf } from './program.ts'

/**
 * Threads that run one module's default function, as many as are needed at once, and end when nobody has needed them
 * for a while.
 * @param module below server/src, without its ending
 */
export const threadsOf = <Task, Outcome>(
  module: string,
  options: {
    maxThreads: number
    idleTimeout: number
    maxQueue?: number
    resourceLimits?: { maxOldGenerationSizeMb: number }
  },
): Piscina<Task, Outcome> => {
  return new Piscina<Task, Outcome>({ filename: programOf(module), execArgv: [], minThreads: 0, ...options })
}
