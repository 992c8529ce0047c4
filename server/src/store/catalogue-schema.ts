import type { Condition, LogTable, TrackLevel } from '@ennick/core'
import { sql } from 'drizzle-orm'
import {
  bigint,
  boolean,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core'
import { at, bytes, createdAt, id } from './columns.ts'
import { clips, files, productions, volumes } from './schema.ts'

const production = () =>
  uuid('production_id')
    .notNull()
    .references(() => productions.id, { onDelete: 'cascade' })

/**
 * One row a clip with everything that a table shows, sorts and searches by, derived from the rest. Nothing is only
 * here: it is written anew for clips that `clip_staleness` names, before it is read.
 */
export const clipIndex = pgTable(
  'clip_index',
  {
    clipId: uuid('clip_id')
      .primaryKey()
      .references(() => clips.id, { onDelete: 'cascade' }),
    productionId: production(),
    name: text('name').notNull(),
    reel: text('reel').notNull(),
    described: jsonb('described').$type<Record<string, string>>().notNull(),
    fileName: text('file_name').notNull(),
    folder: text('folder').notNull(),
    volumeId: uuid('volume_id').notNull(),
    volume: text('volume').notNull(),
    volumeKind: text('volume_kind').notNull(),
    kind: text('kind').notNull(),
    codec: text('codec').notNull(),
    container: text('container').notNull(),
    raster: text('raster').notNull(),
    width: integer('width'),
    height: integer('height'),
    rate: doublePrecision('rate'),
    rateNumerator: integer('rate_numerator'),
    rateDenominator: integer('rate_denominator'),
    start: text('start').notNull(),
    duration: text('duration').notNull().default(''),
    frames: integer('frames'),
    channels: integer('channels').notNull(),
    layout: text('layout').notNull(),
    tracks: text('tracks').notNull(),
    sampleRate: integer('sample_rate'),
    bitDepth: integer('bit_depth'),
    squeeze: text('squeeze').notNull(),
    scan: text('scan').notNull(),
    colour: text('colour').notNull(),
    created: text('created').notNull(),
    originator: text('originator').notNull(),
    files: integer('files').notNull(),
    size: bigint('size', { mode: 'number' }).notNull(),
    dataRate: bigint('data_rate', { mode: 'number' }),
    presence: text('presence').notNull(),
    proxy: text('proxy').notNull(),
    proxies: jsonb('proxies').$type<string[]>().notNull(),
    proxyRaster: text('proxy_raster').notNull(),
    uses: integer('uses').notNull(),
    notice: text('notice').notNull(),
    plays: integer('plays'),
    /** Every name of the clip, folded, for the filter's words. */
    words: text('words').notNull(),
    /** A digest of the row, so that only rows that changed are written. */
    mark: text('mark').notNull(),
  },
  (table) => [index('clip_index_production').on(table.productionId, table.clipId)],
)

/** Clips whose row in the index is out of date; no clip means all of the production. */
export const clipStaleness = pgTable(
  'clip_staleness',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    productionId: production(),
    clipId: uuid('clip_id'),
  },
  (table) => [index('clip_staleness_production').on(table.productionId)],
)

/** A change of what is said of clips, as one step that can be taken back. */
export const edits = pgTable(
  'edits',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    productionId: production(),
    title: text('title').notNull(),
    state: text('state').$type<'done' | 'undone'>().notNull().default('done'),
    createdAt: createdAt(),
  },
  (table) => [index('edits_production').on(table.productionId, table.id)],
)

/** One cell of an edit, before and after. */
export const editChanges = pgTable(
  'edit_changes',
  {
    editId: bigint('edit_id', { mode: 'number' })
      .notNull()
      .references(() => edits.id, { onDelete: 'cascade' }),
    clipId: uuid('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    field: text('field').notNull(),
    before: jsonb('before').$type<DescribedValue>(),
    after: jsonb('after').$type<DescribedValue>(),
  },
  (table) => [
    primaryKey({ columns: [table.editId, table.clipId, table.field] }),
    index('edit_changes_clip').on(table.clipId),
  ],
)

/** Where a described value came from: the file, a log beside it, a person, or a rule. */
export type ValueSource = 'file' | 'sidecar' | 'person' | 'rule'

export interface DescribedValue {
  readonly value: string
  readonly from: ValueSource
}

/** A search that stays current. */
export const savedSearches = pgTable(
  'saved_searches',
  {
    id: id(),
    productionId: production(),
    name: text('name').notNull(),
    condition: jsonb('condition').$type<Condition>().notNull(),
    createdAt: createdAt(),
  },
  (table) => [uniqueIndex('saved_searches_name').on(table.productionId, table.name)],
)

export interface ViewColumn {
  readonly field: string
  /** In rem. */
  readonly width: number
}

/** A way of looking at the clips: which columns, how wide, in which order of rows. */
export const savedViews = pgTable(
  'saved_views',
  {
    id: id(),
    productionId: production(),
    name: text('name').notNull(),
    columns: jsonb('columns').$type<ViewColumn[]>().notNull(),
    sort: jsonb('sort').$type<{ field: string; descending: boolean }[]>().notNull(),
    createdAt: createdAt(),
  },
  (table) => [uniqueIndex('saved_views_name').on(table.productionId, table.name)],
)

/**
 * Another file with the content of a clip's file: a card's original that was copied to storage, or the other way round.
 */
export const clipCopies = pgTable(
  'clip_copies',
  {
    clipId: uuid('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    fileId: uuid('file_id')
      .notNull()
      .references(() => files.id, { onDelete: 'cascade' }),
    /** Whether a checksum was read back from both. */
    isVerified: boolean('is_verified').notNull(),
    /** Whether both were read whole, and are not the same: one of them is damaged. It is no copy then. */
    isUnlike: boolean('is_unlike').notNull().default(false),
  },
  (table) => [
    primaryKey({ columns: [table.clipId, table.fileId] }),
    index('clip_copies_file').on(table.fileId),
    // Nearly all copies were read back: what was not, and what is none, is found without looking at those.
    index('clip_copies_unread').on(table.fileId).where(sql`not is_verified and not is_unlike`),
    index('clip_copies_unlike').on(table.clipId).where(sql`is_unlike`),
  ],
)

/** A file that is some clip's small proxy by what it is: made by the camera, or uploaded before its original came. */
export const cameraProxies = pgTable(
  'camera_proxies',
  {
    fileId: uuid('file_id')
      .primaryKey()
      .references(() => files.id, { onDelete: 'cascade' }),
    productionId: production(),
    /** The clip that it fits; null while its original has not come. */
    clipId: uuid('clip_id').references(() => clips.id, { onDelete: 'set null' }),
  },
  (table) => [index('camera_proxies_production').on(table.productionId)],
)

/** A manifest of checksums that lies in a volume, and how the volume stood against it at last. */
export const manifests = pgTable(
  'manifests',
  {
    id: id(),
    volumeId: uuid('volume_id')
      .notNull()
      .references(() => volumes.id, { onDelete: 'cascade' }),
    /** Below the volume's root. */
    path: text('path').notNull(),
    /** The folder that it is about, below the volume's root; empty for the root. */
    folder: text('folder').notNull(),
    files: integer('files').notNull(),
    createdAt: createdAt(),
  },
  (table) => [uniqueIndex('manifests_place').on(table.volumeId, table.path)],
)

/** Files that were tried: decoded at their head, in their middle and at their end. */
export const originalTrials = pgTable('original_trials', {
  fileId: uuid('file_id')
    .primaryKey()
    .references(() => files.id, { onDelete: 'cascade' }),
  /** What it held then: of other content the trial says nothing. */
  fingerprint: text('fingerprint').notNull(),
  /** What cannot be decoded, in a sentence; null when all of it could. */
  complaint: text('complaint'),
  triedAt: at('tried_at').notNull().defaultNow(),
})

/** What the pictures of some content look like, by its fingerprint; empty where no picture of it could be used. */
export const pictureSignatures = pgTable('picture_signatures', {
  fingerprint: text('fingerprint').primaryKey(),
  /** As `packSignature` writes it. */
  signature: bytes('signature').notNull(),
  /** Words of 32 signs, little-endian, by which the few files are found that may show the same. */
  shapes: bytes('shapes').notNull(),
  takenAt: at('taken_at').notNull().defaultNow(),
})

/** How loud some content is over its length, by its fingerprint, as `packEnvelope` writes it; empty without sound. */
export const soundEnvelopes = pgTable('sound_envelopes', {
  fingerprint: text('fingerprint').primaryKey(),
  envelope: bytes('envelope').notNull(),
  /** Its channels one by one. */
  tracks: jsonb('tracks').$type<readonly TrackLevel[]>().notNull(),
  /** Of the way it was measured. */
  version: integer('version').notNull().default(1),
  takenAt: at('taken_at').notNull().defaultNow(),
})

/** How fast a volume was read, past the system's cache; of each the last measure. */
export const readSpeeds = pgTable('read_speeds', {
  volumeId: uuid('volume_id')
    .primaryKey()
    .references(() => volumes.id, { onDelete: 'cascade' }),
  bytesPerSecond: doublePrecision('bytes_per_second').notNull(),
  measuredAt: at('measured_at').notNull().defaultNow(),
})

/** How fast content decodes here, by its fingerprint. */
export const decodeSpeeds = pgTable('decode_speeds', {
  fingerprint: text('fingerprint').primaryKey(),
  framesPerSecond: doublePrecision('frames_per_second').notNull(),
  measuredAt: at('measured_at').notNull().defaultNow(),
})

/** Rows of a log that were about nothing known when it was read: each holds a place until its clip comes. */
export const awaitedLogs = pgTable(
  'awaited_logs',
  {
    id: id(),
    productionId: uuid('production_id')
      .notNull()
      .references(() => productions.id, { onDelete: 'cascade' }),
    fileName: text('file_name').notNull(),
    columns: jsonb('columns').$type<readonly string[]>().notNull(),
    rows: jsonb('rows').$type<LogTable['rows']>().notNull(),
    createdAt: createdAt(),
  },
  (table) => [index('awaited_logs_production').on(table.productionId)],
)
