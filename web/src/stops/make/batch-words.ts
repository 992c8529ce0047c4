import type { MakeBatch } from '@ennick/contract'
import { writeDelimited } from '@ennick/core'
import { bytes, span } from '../../parts/words.ts'

/** How a batch stands, in the word of its worst part; while anything is to come it is not over. */
export function batchWord({ counts }: MakeBatch): string {
  if (counts.toCome) return 'running'
  if (counts.waits) return 'waits'
  if (counts.failed) return 'failed'
  return counts.stopped ? 'cancelled' : 'done'
}

/** "12 of 14 made, 1 failed, 1 skipped": all parts of what was asked for, and how long it took. */
export function batchCounts({ counts, seconds }: MakeBatch): string {
  const { asked, made, failed, stopped, skipped, toCome, waits } = counts
  const rest = { failed, 'waiting for a volume': waits, stopped, skipped, 'to come': toCome }
  const parts = Object.entries(rest).flatMap(([word, number]) => (number ? [`${number} ${word}`] : []))
  const took = seconds === null ? [] : [`in ${span(seconds)}`]
  return [`${made} of ${asked} made`, ...parts, ...took].join(', ')
}

const isToCome = ({ toCome, waits }: MakeBatch['counts']): boolean => toCome + waits > 0

/** Whether what is still to come is likely to take far more room than was planned. */
export const needsMoreRoom = ({ counts, size }: MakeBatch): boolean =>
  isToCome(counts) && size?.isOff === true && size.expectedBytes > size.plannedBytes

/** "3.2 GB made, 11 GB expected in all (the plan said 7 GB)"; nothing before the first is made. */
export function batchSize({ counts, size }: MakeBatch): string {
  if (!size) return ''
  const { madeBytes, plannedBytes, expectedBytes, isOff } = size
  const said = isOff ? ` (the plan said ${bytes(plannedBytes)})` : ''
  return isToCome(counts)
    ? `${bytes(madeBytes)} made, ${bytes(expectedBytes)} expected in all${said}`
    : `${bytes(madeBytes)} made${said}`
}

/** "12 of 14 taken in, 1 differs, 1 not named": what the receiving room has of a batch. */
export function takenInCounts({ seen, of, differingTotal, missingTotal }: NonNullable<MakeBatch['takenIn']>): string {
  return [
    `${seen} of ${of} taken in`,
    ...(differingTotal ? [`${differingTotal} ${differingTotal === 1 ? 'differs' : 'differ'}`] : []),
    ...(missingTotal ? [`${missingTotal} not named`] : []),
  ].join(', ')
}

/** What need not be listed, in a sentence; of a day that nobody said nothing is known. */
export function batchRest({ failed, waiting, stopped, skipped, leftOut }: MakeBatch): string {
  const isClean = failed.length + waiting.length + stopped.length + skipped.length === 0
  const ofDay =
    leftOut.days.length === 0
      ? 'No shoot day is known of its clips.'
      : leftOut.total === 0
        ? `Of ${leftOut.days.join(', ')} no picture is without a proxy.`
        : ''
  return [isClean ? 'Nothing failed, and nothing was skipped.' : '', ofDay].filter(Boolean).join(' ')
}

/** Everything that did not become an item, as a list that travels: what it is, what became of it, and why. */
export function batchFile(batch: MakeBatch): string {
  const { names, total, days } = batch.leftOut
  const untold = total > names.length ? [`and ${total - names.length} more`] : []
  return writeDelimited(
    ',',
    ['What', 'State', 'Reason'],
    [
      [batch.recipes.join(' + '), batchCounts(batch), `asked for ${batch.createdAt}`],
      ...batch.failed.map(({ title, reason }) => [title, 'failed', reason]),
      ...batch.waiting.map(({ title, reason }) => [title, 'waiting for a volume', reason]),
      ...batch.stopped.map((title) => [title, 'stopped', '']),
      ...batch.skipped.map(({ name, recipe, reason }) => [`${name} → ${recipe}`, 'skipped', reason]),
      ...[...names, ...untold].map((name) => [name, 'not asked for', `of ${days.join(', ')}`]),
      ...(batch.takenIn?.differing ?? []).map(({ name, line, why }) => [
        name,
        'taken in, and differs',
        `line ${line}: ${why}`,
      ]),
      ...(batch.takenIn?.missing ?? []).map((name) => [
        name,
        'not taken in',
        `${batch.takenIn?.fileName} does not name it`,
      ]),
    ],
  )
}
