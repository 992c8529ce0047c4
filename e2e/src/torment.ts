import { mkdtemp, realpath, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { Ennick } from './ennick.ts'
import { Chance } from './torment/chance.ts'
import { tormentRound } from './torment/round.ts'
import { tormentUndo } from './torment/undo.ts'

/**
 * Standing watch: kills, freezes, takes away and puts in the way while batches are made and cards copied, and takes
 * back hundreds of random changes; then looks whether disk and ledger say the same and nothing else was touched.
 */
const { values } = parseArgs({
  options: {
    rounds: { type: 'string', default: '10' },
    steps: { type: 'string', default: '300' },
    seed: { type: 'string' },
  },
})
const seed = Number(values.seed ?? Date.now() % 1_000_000)
const folder = await realpath(await mkdtemp(join(tmpdir(), 'ennick-torment-')))
console.log(`Seed ${seed}: the same again with --seed ${seed}`)
const chance = new Chance(seed)
const ennick = await Ennick.start(folder, { isQuiet: true, environment: { ENNICK_LEASE_SECONDS: '3' } })
let failed = 0
const tell = (what: string, wrong: readonly string[]): void => {
  if (wrong.length) failed++
  console.log(`  ${what}: ${wrong.length ? '' : 'all held'}`)
  for (const line of wrong) console.log(`    ${line}`)
}
try {
  for (let number = 1; number <= Number(values.rounds); number++)
    tell(
      `round ${number}`,
      await tormentRound(ennick, folder, chance, number).catch((error: Error) => [error.stack ?? error.message]),
    )
  if (Number(values.steps) > 0)
    tell(
      `${values.steps} steps and their undoing`,
      await tormentUndo(ennick, folder, chance, Number(values.steps)).catch((error: Error) => [
        error.stack ?? error.message,
      ]),
    )
} finally {
  if (failed === 0) {
    await ennick.forget()
    await rm(folder, { recursive: true, force: true })
  } else {
    await ennick.stop()
    console.log(`What went wrong lies in ${folder}`)
  }
}
process.exitCode = failed === 0 ? 0 : 1
