import { randomUUID } from 'node:crypto'
import { mkdir, readdir, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { Handoff } from '@ennick/contract'
import {
  type CutFormatId,
  count,
  cutList,
  type Decision,
  eventTable,
  handoffReport,
  preflight,
  printedPage,
  pullColumns,
  pullRows,
  pullsOf,
  type WriteOptions,
  type WrittenList,
  writeAle,
  writeDelimited,
} from '@ennick/core'
import { xxh64 } from '@node-rs/xxhash'
import { asc, eq } from 'drizzle-orm'
import { type Config, handoffFolder } from '../config.ts'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import type { Services } from '../http/services.ts'
import { lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { readApart } from '../reading/read-apart.ts'
import { announce } from '../store/announce.ts'
import type { Queryable } from '../store/database.ts'
import { type HandoffFile, handedCuts, handoffs } from '../store/handoff-schema.ts'
import { writeHistory } from '../store/history.ts'
import { placeOf } from '../store/place-words.ts'
import { mends } from '../store/schema.ts'
import { handedNow, onOriginals } from './since.ts'

export type HandoffRow = typeof handoffs.$inferSelect

/**
 * Writes the cut on its originals in every format that can say it, with a report and a manifest, into a folder of its
 * own.
 * @throws PlainError while a blocking finding is neither mended nor decided upon, or when an original has left since.
 */
export async function handOff(
  { database, config, material }: Pick<Services, 'database' | 'config' | 'material'>,
  cutId: string,
  options: WriteOptions = {},
): Promise<HandoffRow> {
  const state = await readCutState(database, cutId, material)
  if (state.material.production.trialOf)
    throw new PlainError('is-trial', 'A trial hands nothing off: keep it, and hand off from its production.', {
      status: 409,
    })
  const check = preflight(state.findings, state.decisions)
  if (!check.ready) {
    throw new PlainError(
      'preflight',
      `${count(check.open.length, 'finding blocks', 'findings block')} this handoff. ` +
        'Mend them, or decide upon each with a reason.',
      { status: 409, details: check.open.map((finding) => finding.key) },
    )
  }
  await assertOriginalsHere(state)
  const at = new Date()
  const name = `${safeName(state.cut.name)} ${at.toISOString().slice(0, 19).replaceAll(':', '-')}`
  const lists = takeWritten(await writeLists(state, options), state.cut.name)
  if (lists.written.length === 0)
    throw new PlainError(
      'no-format',
      `No format can say this cut: ${lists.leftOut.map((item) => `${item.name}: ${item.reason}`).join('; ')}`,
    )
  const written = [...lists.written, ...(await papersOf(database, state, lists, at))]
  const all = [...written, { name: 'manifest.json', content: manifest(state, written) }]
  return writeFolder(handoffFolder(config.dataFolder), name, all, (taken) =>
    database.transaction(async (transaction) => {
      const [row] = await transaction
        .insert(handoffs)
        .values({
          productionId: state.row.productionId,
          cutId,
          name: taken,
          folder: join(handoffFolder(config.dataFolder), taken),
          files: all.map(describe),
          leftOut: lists.leftOut,
          decisions: usedDecisions(state),
          createdAt: at,
        })
        .returning()
      await transaction.insert(handedCuts).values({ handoffId: (row as HandoffRow).id, handed: handedNow(state) })
      await writeHistory(
        transaction,
        state.row.productionId,
        'handoff',
        cutId,
        `Handed off “${state.cut.name}”: ${all.map((file) => file.name).join(', ')}.`,
      )
      await announce(transaction, state.row.productionId, 'handoffs', 'cuts')
      return row as HandoffRow
    }),
  )
}

/** What goes along with the lists of a cut, for people: the cut to read, tables of it, and the report. */
export async function papersOf(
  database: Queryable,
  state: CutState,
  lists: TakenLists,
  at: Date,
): Promise<WrittenFile[]> {
  const { id } = state.row
  const mendRows = await database.select().from(mends).where(eq(mends.cutId, id)).orderBy(asc(mends.createdAt))
  const report = handoffReport({
    production: state.material.production.name,
    cut: state.cut,
    resolutions: state.resolutions,
    clips: state.clips,
    findings: state.findings,
    decisions: state.decisions,
    preflight: preflight(state.findings, state.decisions),
    mends: mendRows
      .filter((mend) => mend.state === 'done' || mend.state === 'undone')
      .map((mend) => ({
        at: mend.createdAt.toISOString(),
        title: `${mend.title}: ${mend.changes.map((change) => change.label).join('; ')}`,
        undone: mend.state === 'undone',
      })),
    files: lists.written.map(describe),
    ...{ leftOut: lists.leftOut, losses: lists.losses, replaced: lists.replaced, handedOffAt: at.toISOString() },
  })
  return [...(await tables(state)), { name: fileNameOf(state, 'report.html'), content: report }]
}

const usedDecisions = ({ decisions, findings }: CutState): Decision[] =>
  decisions
    .filter(({ findingKey }) => findings.some(({ key }) => key === findingKey))
    .map(({ findingKey, reason, decidedAt }) => ({ findingKey, reason, decidedAt }))

/**
 * What is proven a moment ago may be gone now: every original that the list will name is looked at once more. One that
 * was not here at the last look is among the findings.
 */
async function assertOriginalsHere(state: CutState): Promise<void> {
  for (const clipId of new Set(state.resolutions.map((resolution) => resolution.clipId))) {
    const clip = clipId === null ? undefined : state.material.clips.get(clipId)
    for (const file of clip?.files ?? []) {
      if (file.presence !== 'here') continue
      const stamp = await lookForPlaced(file).catch(() => null)
      if (stamp && sameStamp(file, stamp)) continue
      const what = stamp ? 'is another than at the last look' : 'was here at the last look and is not now'
      throw new PlainError('original-left', `${placeOf(file)} ${what}. Check again before handing off.`, {
        status: 409,
      })
    }
  }
}

export interface WrittenFile {
  readonly name: string
  readonly content: string | Uint8Array
}

/**
 * The cut on its originals, each list proven by reading it again, in a thread of its own.
 * @param format one alone; every one where none is named
 */
export function writeLists(
  state: CutState,
  options: WriteOptions,
  format: CutFormatId | null = null,
): Promise<WrittenList[]> {
  return readApart('lists', { cut: onOriginals(state), options, format }, { seconds: 300 })
}

/**
 * The name of the file in which a format leaves. The list that was cut with has the cut's name: the one for finishing
 * says so, as nobody can tell two files of one name apart.
 */
export const listFileName = (cutName: string, { extension }: WrittenList, more = ''): string =>
  `${safeName(cutName)}, online${more}${extension}`

export type TakenLists = ReturnType<typeof takeWritten>

/**
 * The lists that could be written, and what became of the others.
 * @param more what stands in their names besides
 */
export function takeWritten(lists: readonly WrittenList[], cutName: string, more = '') {
  const written = lists.flatMap((list) =>
    list.text === null ? [] : [{ name: listFileName(cutName, list, more), content: list.text }],
  )
  const leftOut = lists.flatMap(({ name, reason }) => (reason === null ? [] : [{ name, reason }]))
  const taken = lists.filter(({ text }) => text !== null)
  return {
    written,
    leftOut,
    losses: taken.map(({ name, losses }) => ({ format: name, list: losses })),
    replaced: taken.flatMap(({ name, replaced }) => replaced.map((each) => ({ ...each, format: name }))),
  }
}

const fileNameOf = (state: CutState, rest: string): string => `${safeName(state.cut.name)} ${rest}`

/** For people and their tables: the cut to read, its events, and what it needs of its originals. */
async function tables(state: CutState): Promise<WrittenFile[]> {
  const { cut, resolutions, clips, material } = state
  const { production } = material
  const pulls = pullRows(cut, pullsOf(cut, resolutions, clips))
  const format = { width: production.width, height: production.height, rate: cut.rate, sampleRate: 48_000 }
  const printed = cutList({ production: production.name, cut, resolutions, clips })
  return [
    { name: fileNameOf(state, 'cut list.html'), content: printedPage(printed) },
    { name: fileNameOf(state, 'cut list.pdf'), content: await readApart('pdf', printed, { seconds: 300 }) },
    { name: fileNameOf(state, 'events.csv'), content: eventTable(cut, resolutions, clips) },
    { name: fileNameOf(state, 'pull list.csv'), content: writeDelimited(',', [...pullColumns], pulls) },
    { name: fileNameOf(state, 'pull list.ale'), content: writeAle(format, [...pullColumns], pulls) },
  ]
}

const describe = (file: WrittenFile): HandoffFile => {
  const bytes = Buffer.from(file.content as Uint8Array)
  return { name: file.name, bytes: bytes.length, xxh64: xxh64(bytes).toString(16).padStart(16, '0') }
}

function manifest(state: CutState, written: readonly WrittenFile[]): string {
  const used = new Set(state.resolutions.map((resolution) => resolution.clipId))
  const originals = [...state.material.clips.values()]
    .filter((clip) => used.has(clip.id))
    .flatMap((clip) =>
      clip.files.map((file) => ({
        clip: clip.name,
        reel: clip.reel,
        volume: file.volume.label,
        path: file.fullPath,
        bytes: file.sizeBytes,
        fingerprint: file.fingerprint,
      })),
    )
  return `${JSON.stringify({ cut: state.cut.name, files: written.map(describe), originals }, null, 2)}\n`
}

export const safeName = (name: string): string =>
  shortened(name.replace(/[\\/:*?"<>|\p{Cc}]/gu, '_').replace(/^\.+/, '_')).trim() || 'cut'

/** A disk holds 255 bytes of a name, of which some are for what stands behind it. */
const mostNameBytes = 200

/** As many whole characters as there is room for. */
function shortened(name: string): string {
  let bytes = 0
  let kept = ''
  for (const character of name) {
    bytes += Buffer.byteLength(character)
    if (bytes > mostNameBytes) break
    kept += character
  }
  return kept
}

/**
 * Writes a folder that appears under its name when everything is in it. A name that is taken, by a handoff of the same
 * second or by anything else, gets a number.
 * @param keep writes down what the name means; when that fails the folder goes again
 */
async function writeFolder<T>(
  root: string,
  name: string,
  list: readonly WrittenFile[],
  keep: (taken: string) => Promise<T>,
): Promise<T> {
  try {
    await mkdir(root, { recursive: true })
    const part = `.${randomUUID()}.ennick-part`
    return await withHeld(root, (held) => writeFolderIn(held, { name, part, list }, keep), { isOwn: true })
  } catch (error) {
    if (!isFileError(error)) throw error
    throw new PlainError('cannot-write', explainFileError(error, join(root, name)), { status: 409 })
  }
}

/**
 * The same in a folder that is held.
 * @param folder with the name of nobody else's by which it goes until then
 */
export async function writeFolderIn<T>(
  held: HeldFolder,
  { name, part, list }: { name: string; part: string; list: readonly WrittenFile[] },
  keep: (taken: string) => Promise<T>,
): Promise<T> {
  await mkdir(held.at(part))
  try {
    await withFolder(held, part, async (folder) => {
      for (const { name: fileName, content } of list) {
        const file = await folder.create(fileName)
        await file.writeFile(content).finally(() => file.close())
      }
    })
    await held.assertThere()
    const taken = await takeName(held, part, name)
    try {
      return await keep(taken)
    } catch (error) {
      await rename(held.at(taken), held.at(part))
      throw error
    }
  } catch (error) {
    // What is in the way of the folder may be in the way of tidying too: the first trouble is the one to tell.
    await rm(held.at(part), { recursive: true, force: true }).catch(() => undefined)
    throw error
  }
}

/** @returns the name that a finished folder got */
async function takeName(held: HeldFolder, part: string, name: string): Promise<string> {
  for (let number = 1; ; number++) {
    const wanted = number === 1 ? name : `${name} (${number})`
    if (await held.look(wanted)) continue
    const isGiven = await rename(held.at(part), held.at(wanted)).then(
      () => true,
      (error) => {
        // Another handoff was quicker by a moment.
        if (['EEXIST', 'ENOTEMPTY', 'ENOTDIR'].includes(error.code)) return false
        throw error
      },
    )
    if (isGiven) return wanted
  }
}

/** Removes handoffs that a server did not finish writing when it was ended. */
export async function clearUnfinishedHandoffs(config: Config): Promise<void> {
  const root = handoffFolder(config.dataFolder)
  for (const name of await readdir(root).catch(() => [] as string[]))
    if (/^\.[0-9a-f-]{36}\.ennick-part$/.test(name)) await rm(join(root, name), { recursive: true, force: true })
}

export const presentHandoff = (row: HandoffRow): Handoff => ({
  id: row.id,
  cutId: row.cutId,
  name: row.name,
  folder: row.folder,
  files: row.files,
  leftOut: row.leftOut,
  decisions: row.decisions,
  createdAt: row.createdAt.toISOString(),
})
