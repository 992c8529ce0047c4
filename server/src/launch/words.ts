import { type ParseArgsConfig, parseArgs } from 'node:util'

/**
 * The words that stand behind one of Ennick's commands. One that it does not know ends it before anything is done: who
 * mistypes an option means something else than what would be done without it.
 * @param usage how the command is written, for people
 */
export function readWords<T extends NonNullable<ParseArgsConfig['options']>>(options: T, usage: string) {
  try {
    return parseArgs({ options }).values
  } catch (error) {
    console.error(`${(error as Error).message}\n${usage}`)
    return process.exit(2)
  }
}
