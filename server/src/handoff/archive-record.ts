import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { type BoxLabel, boxLabel } from '@ennick/contract'
import {
  type AwaitedOriginal,
  type JoinedEntry,
  type Resolution,
  readSoundLink,
  soundLinkKey,
  writeSoundLink,
} from '@ennick/core'
import { z } from 'zod'
import type { CutState } from '../cuts/cut-state.ts'
import { type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { heldContents } from '../store/backups.ts'
import type { DescribedValue } from '../store/catalogue-schema.ts'
import type { Lacking } from '../store/job-types.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { productionRate } from '../store/production-row.ts'
import { placeIn } from './pull-order.ts'
import type { PullPlan } from './pull-plan.ts'

/** What stands in an archive beside its files, so that a production can be put together again from it. */
export const recordName = 'production.json'
/** What lies beside the copies of each run, newest last by its name. */
const listsFolder = /^lists \d{4}-\d\d-\d\dT\d\d-\d\d-\d\d( \(\d+\))?$/
const mostBytes = 500_000_000

const rate = z.object({ numerator: z.int().positive(), denominator: z.int().positive() })
const value = z.object({ value: z.string(), from: z.enum(['file', 'sidecar', 'person', 'rule']) })
const column = z.object({
  ...{ key: z.string(), title: z.string(), choices: z.array(z.string()) },
  kind: z.enum(['text', 'number', 'timecode', 'date', 'flag', 'choice']),
})
/** One folder of the archive, by its name alone. */
const folderName = z.string().refine((name) => !/[/\\\0]/.test(name) && name !== '..' && name !== '.')

const archiveRecord = z.object({
  ennickArchive: z.literal(1),
  madeAt: z.string(),
  production: z.object({
    ...{ name: z.string().min(1), rate, width: z.int().positive(), height: z.int().positive() },
    ...{ proxySuffixes: z.array(z.string()), customColumns: z.array(column) },
  }),
  volumes: z.array(z.object({ label: z.string().min(1), folder: folderName, box: boxLabel })),
  clips: z.array(
    z.object({
      /** Of its first file, below the archive; of numbered stills their pattern. */
      place: z.string(),
      reel: value.nullable(),
      described: z.record(z.string(), value),
      /** What a person said that its file is. */
      role: z.enum(['original', 'proxy', 'optimized', 'deliverable']).nullable(),
    }),
  ),
  cuts: z.array(
    z.object({
      ...{ file: folderName, fileName: z.string(), name: z.string(), rate },
      /** Cuts of one line are versions of one, in this order. */
      line: z.int(),
      /** Whether only the good events of its list were taken. */
      takesGood: z.boolean(),
      /** The clips that a person or a mend chose for events, by position, each by its place. */
      chosen: z.array(z.object({ position: z.int().nonnegative(), place: z.string() })),
      /** What events were on, or might have been, that is not in it; archives of before do not say. */
      awaited: z
        .array(
          z.object({
            ...{ position: z.int().nonnegative(), name: z.string(), volumeLabel: z.string() },
            content: z.string().nullable(),
          }),
        )
        .default([]),
      /** What was let stand, with the clips in the keys called by their places. */
      decisions: z.array(
        z.object({
          ...{ findingKey: z.string(), reason: z.string(), decidedAt: z.iso.datetime() },
          /** What it was made on; archives of before do not say. */
          uses: z
            .array(z.object({ source: z.string(), startFrame: z.int(), endFrame: z.int() }))
            .nullable()
            .default(null),
        }),
      ),
    }),
  ),
  /** What is where in files that were joined: a cut may name one. Their clips are called by their places. */
  joined: z.array(
    z.object({
      ...{ name: folderName, rate },
      entries: z.array(
        z.object({
          ...{ name: z.string(), clipName: z.string(), clipId: z.string().optional(), reel: z.string().nullable() },
          ...{ sourceStartFrame: z.int().nullable(), dropFrame: z.boolean(), startFrame: z.int(), frames: z.int() },
        }),
      ),
    }),
  ),
  /** What is not in it, and why, when it was made; archives of before do not say. */
  lacks: z
    .array(z.object({ name: z.string(), reason: z.string() }))
    .readonly()
    .default([]),
})
export type ArchiveRecord = z.infer<typeof archiveRecord>

/** An archive as it lies there. */
export interface FoundArchive {
  readonly record: ArchiveRecord
  /** The folder in it that holds the record and the lists. */
  readonly along: string
}

/**
 * @param cuts every version, with the name of the file that its list has in the archive
 * @param lacks what could not be copied
 */
export function recordOf(
  material: Material,
  plan: PullPlan,
  cuts: readonly { readonly state: CutState; readonly file: string }[],
  lacks: readonly Lacking[],
): ArchiveRecord {
  const { production, joined } = material
  const inIt = plan.clips.filter(({ outstanding }) => outstanding === null).map(({ clip }) => clip)
  const placeOf = new Map(inIt.map((clip) => [clip.id, placeIn(plan, clip.main)]))
  const lines = [...new Set(cuts.map(({ state }) => state.row.lineId))]
  return {
    ennickArchive: 1,
    madeAt: new Date().toISOString(),
    production: {
      ...{ name: production.name, rate: productionRate(production), width: production.width },
      ...{ height: production.height, proxySuffixes: production.proxySuffixes },
      customColumns: production.customColumns.map((each) => ({ ...each, choices: [...each.choices] })),
    },
    volumes: plan.volumes.map(({ volume, folder }) => ({ label: volume.label, folder, box: volume.box as BoxLabel })),
    clips: inIt.map((clip) => ({
      ...{ place: placeOf.get(clip.id) as string, reel: reelOf(clip), role: clip.declaredRole },
      described: withSound(clip.described, (id) => placeOf.get(id)),
    })),
    cuts: [...cuts]
      .sort((a, b) => a.state.row.version - b.state.row.version)
      .map(({ state: { row, cut, resolutions, decisions }, file }) => ({
        ...{ file, fileName: row.fileName, name: row.name, rate: cut.rate, line: lines.indexOf(row.lineId) },
        takesGood: row.leftOut.length > 0,
        chosen: resolutions.flatMap(({ by, clipId }, position) => {
          const place = by === 'choice' && clipId !== null ? placeOf.get(clipId) : undefined
          return place === undefined ? [] : [{ position, place }]
        }),
        awaited: resolutions.flatMap((resolution, position) => {
          const lacking = awaitedBy(resolution, material, placeOf)
          return lacking ? [{ position, ...lacking }] : []
        }),
        decisions: decisions.map((decision) => ({
          ...decision,
          findingKey: withPlaces(decision.findingKey, placeOf),
          uses: decision.uses && [...decision.uses],
        })),
      })),
    joined: joined.all.map(({ name, rate: { numerator, denominator }, entries }) => ({
      ...{ name, rate: { numerator, denominator } },
      entries: calledOtherwise(entries, (id) => placeOf.get(id)),
    })),
    lacks,
  }
}

/** What an event is on, or might be, that is not in the archive; null where all of it is, or nothing is known. */
function awaitedBy(
  { clipId, rivals, awaited }: Resolution,
  { clips }: Material,
  placeOf: ReadonlyMap<string, string>,
): AwaitedOriginal | null {
  if (awaited) return awaited
  const lacking = (clipId === null ? rivals : [clipId]).filter((id) => !placeOf.has(id))
  const [first] = lacking.flatMap((id) => clips.get(id) ?? [])
  if (!first) return null
  const { name, main } = first
  return { name, volumeLabel: main.volume.label, content: clipId === null ? null : heldContents(first) }
}

const uuid = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g
const bracketed = /⟨([^⟩]*)⟩/g

const withPlaces = (key: string, placeOf: ReadonlyMap<string, string>): string =>
  key.replace(uuid, (id) => (placeOf.has(id) ? `⟨${placeOf.get(id)}⟩` : id))

/** The key of a finding in a production that came back. @param clipAt which clip lies at a place there */
export const keyThere = (key: string, clipAt: (place: string) => string | undefined): string =>
  key.replace(bracketed, (all, place: string) => clipAt(place) ?? all)

/**
 * What is where in a joined file, with its clips called otherwise; one that is not known by another name has none.
 * @param called what a clip is called there
 */
export const calledOtherwise = (
  entries: readonly JoinedEntry[],
  called: (id: string) => string | undefined,
): JoinedEntry[] =>
  entries.map(({ clipId, ...entry }) => {
    const own = clipId === undefined ? undefined : called(clipId)
    return own === undefined ? entry : { ...entry, clipId: own }
  })

/** What a file says of its reel it says again. */
const reelOf = ({ reel, reelFrom }: KnownClip): DescribedValue | null =>
  reel === null || reelFrom === null || reelFrom === 'file' ? null : { value: reel, from: reelFrom }

/** What is told in words of a synced recording. */
const soundWords = ['syncedSound', 'soundRoll', 'soundTimecode', 'soundOffset']

/**
 * What is said of a clip, with the recording that it was synced with called otherwise; without it where that is not
 * known by another name.
 * @param called what a clip of the recording is called there
 */
export function withSound(
  described: Readonly<Record<string, DescribedValue>>,
  called: (id: string) => string | undefined,
): Record<string, DescribedValue> {
  const { [soundLinkKey]: kept, ...rest } = described
  const link = readSoundLink(kept?.value)
  if (!kept || !link) return rest
  const soundIds = link.soundIds.flatMap((id) => called(id) ?? [])
  if (soundIds.length === link.soundIds.length)
    return { ...rest, [soundLinkKey]: { ...kept, value: writeSoundLink({ ...link, soundIds }) } }
  return Object.fromEntries(Object.entries(rest).filter(([key]) => !soundWords.includes(key)))
}

/**
 * The newest record in the folder of an archive. Nothing is read through a link.
 * @throws PlainError when it holds none that can be read
 */
export async function findArchive(folder: string): Promise<FoundArchive> {
  const refuse = (why: string): PlainError => new PlainError('no-archive', why)
  try {
    return await withHeld(folder, async (held) => {
      const names = (await readdir(held.at('.'))).filter((name) => listsFolder.test(name)).sort()
      for (const along of names.reverse()) {
        const text = await withFolder(held, along, readRecord)
        if (text === null) continue
        const read = archiveRecord.safeParse(JSON.parse(text))
        const path = join(folder, along, recordName)
        if (!read.success)
          throw refuse(`${path} is no record of an archive that this Ennick can read: it may be of a newer one.`)
        return { record: read.data, along }
      }
      throw refuse(
        `${folder} holds no archive that can be put together again: choose the folder that has those of its volumes, ` +
          `and one called “lists …” with ${recordName} in it. To come back from another, add its folders as ` +
          'volumes.',
      )
    })
  } catch (error) {
    if (error instanceof PlainError) throw error
    if (error instanceof SyntaxError) throw refuse(`The record of the archive in ${folder} is damaged.`)
    if (isFileError(error)) throw refuse(explainFileError(error, folder))
    throw error
  }
}

async function readRecord(along: HeldFolder): Promise<string | null> {
  const there = await along.look(recordName)
  if (there && there.size > BigInt(mostBytes))
    throw new PlainError('no-archive', `${join(along.path, recordName)} is too large to be the record of an archive.`)
  return along.readText(recordName)
}
