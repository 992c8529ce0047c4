import { Piscina } from 'piscina'

/**
 * Threads that run one module's default function, as many as are needed at once, and end when nobody has needed them
 * for a while.
 * @param module written in TypeScript, which each thread reads as this process does
 */
export const threadsOf = <Task, Outcome>(
  module: URL,
  options: {
    maxThreads: number
    idleTimeout: number
    maxQueue?: number
    resourceLimits?: { maxOldGenerationSizeMb: number }
  },
): Piscina<Task, Outcome> =>
  new Piscina<Task, Outcome>({ filename: module.href, execArgv: ['--import', 'tsx'], minThreads: 0, ...options })
