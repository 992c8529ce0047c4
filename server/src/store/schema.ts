import type { BoxLabel } from '@ennick/contract'
import type {
  AwaitedOriginal,
  CustomColumn,
  Cut,
  CutEvent,
  DecidedUse,
  EvidenceRow,
  FileRole,
  LaidSound,
  LeftOut,
  LinkChange,
  MediaFacts,
  OtherKind,
  PairKind,
  PathMapping,
  ShownChoice,
  StillSequence,
  Target,
} from '@ennick/core'
import { sql } from 'drizzle-orm'
import {
  bigint,
  boolean,
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
import type { TrialOf } from './trial.ts'

const production = () =>
  uuid('production_id')
    .notNull()
    .references(() => productions.id, { onDelete: 'cascade' })

/** A film, series or job. Everything else belongs to one. */
export const productions = pgTable('productions', {
  id: id(),
  name: text('name').notNull().unique(),
  rateNumerator: integer('rate_numerator').notNull(),
  rateDenominator: integer('rate_denominator').notNull(),
  width: integer('width').notNull(),
  height: integer('height').notNull(),
  isDemo: boolean('is_demo').notNull().default(false),
  proxySuffixes: jsonb('proxy_suffixes').$type<string[]>().notNull(),
  pathMappings: jsonb('path_mappings').$type<PathMapping[]>().notNull().default([]),
  customColumns: jsonb('custom_columns').$type<CustomColumn[]>().notNull().default([]),
  /** Into which field a log's column goes, by the column's title; null leaves it out. */
  logMapping: jsonb('log_mapping').$type<Record<string, string | null>>().notNull().default({}),
  /** Which files of its clips are looked at. */
  shown: text('shown').$type<ShownChoice>().notNull().default('proxies first'),
  /** The room that receives what is made. */
  target: jsonb('target').$type<Target>(),
  /** Of a trial: what it is one of. */
  trialOf: jsonb('trial_of').$type<TrialOf>(),
  createdAt: createdAt(),
})

/** An upload folder holds small proxies that come before their originals; everything on it waits for an original. */
export type VolumeKind =
  | ('card' | 'recorder' | 'disc' | 'shuttle')
  | ('drive' | 'share' | 'folder' | 'managed' | 'upload' | 'made')

/**
 * Where files live: a card, a drive, a folder. Those of kind "made" hold what Ennick makes for the production.
 */
export const volumes = pgTable(
  'volumes',
  {
    id: id(),
    productionId: production(),
    label: text('label').notNull(),
    kind: text('kind').$type<VolumeKind>().notNull(),
    rootPath: text('root_path').notNull(),
    notes: text('notes').notNull().default(''),
    /** What the label on its box says of all that is on it. */
    box: jsonb('box').$type<BoxLabel>().notNull().default({}),
    /** The id in the marker file at its root, when a person allowed one to be written. */
    markerId: uuid('marker_id'),
    /** Where its file system was mounted when it was last seen: without that mount its folder is another one. */
    mountPath: text('mount_path'),
    /** The inode of its root when it was last seen, by which an empty folder of its name is told from it. */
    rootInode: text('root_inode'),
    /** What the file system says of itself, "type:id": it outlives another mount point. */
    signature: text('signature'),
    /** Of a place of what is made: the kinds of new items that go there. The first place takes what no other does. */
    takes: jsonb('takes').$type<PairKind[]>().notNull().default([]),
    /** Scanned by itself as files arrive. */
    isWatched: boolean('is_watched').notNull().default(false),
    isHere: boolean('is_here').notNull().default(true),
    /** Whether its folder is one that Ennick may use: the server looks, and every worker goes by it. */
    isAllowed: boolean('is_allowed').notNull().default(true),
    /** Whether its share or disk says anything at all: one that hangs is away as well. */
    isAnswering: boolean('is_answering').notNull().default(true),
    lastSeenAt: at('last_seen_at'),
    lastScanAt: at('last_scan_at'),
    /** Media files that the last scan left unread, as something was still writing them. */
    growingFiles: integer('growing_files').notNull().default(0),
    /** Files that are no media, counted at the last scan. */
    otherFiles: integer('other_files').notNull().default(0),
    /** Those among them that by ending or size may be picture or sound of a kind that is not read here. */
    unreadKinds: jsonb('unread_kinds').$type<OtherKind[]>().notNull().default([]),
    createdAt: createdAt(),
  },
  (table) => [
    uniqueIndex('volumes_label').on(table.productionId, table.label),
    index('volumes_root').on(table.productionId, table.rootPath),
  ],
)

/** A file on a volume with what it says of itself, or the reason why it says nothing. */
export const files = pgTable(
  'files',
  {
    id: id(),
    volumeId: uuid('volume_id')
      .notNull()
      .references(() => volumes.id, { onDelete: 'cascade' }),
    /** Relative to the volume's root, with "/" between folders. */
    path: text('path').notNull(),
    sizeBytes: bigint('size_bytes', { mode: 'number' }).notNull(),
    /** Whole nanoseconds would not fit a number; microseconds since 1970 do. */
    mtimeMicros: bigint('mtime_micros', { mode: 'number' }).notNull(),
    /** Of numbered stills, a mark of the size and time of each; null where an earlier version saw them. */
    eachStamp: text('each_stamp'),
    /** xxHash64 over the size and samples of the content. */
    fingerprint: text('fingerprint').notNull(),
    /** Its content when it was first seen, kept by a trigger: an original that is another now is told by it. */
    firstFingerprint: text('first_fingerprint'),
    facts: jsonb('facts').$type<MediaFacts>(),
    problem: text('problem'),
    /** Set when the row stands for numbered stills; its path is then the pattern of their names. */
    sequence: jsonb('sequence').$type<StillSequence>(),
    isGone: boolean('is_gone').notNull().default(false),
    /** Whether something else has come in its place since it left: it is gone, and stays so whatever lies there. */
    isReplaced: boolean('is_replaced').notNull().default(false),
    /** Whether a version before this one read less of it: the next scan reads it again, though nothing changed. */
    toReadAgain: boolean('to_read_again').notNull().default(false),
    seenAt: at('seen_at').notNull().defaultNow(),
  },
  (table) => [
    uniqueIndex('files_place').on(table.volumeId, table.path).where(sql`not ${table.isReplaced}`),
    index('files_fingerprint').on(table.fingerprint),
    index('files_changed').on(table.firstFingerprint).where(sql`first_fingerprint <> fingerprint`),
  ],
)

/** The row of what is at a place now, for what is written there. */
export const atPlace = { target: [files.volumeId, files.path], targetWhere: sql`not ${files.isReplaced}` }

/** What a person said of the files in a place: the longest path that a file lies in, or is, speaks for it. */
export const declaredRoles = pgTable(
  'declared_roles',
  {
    volumeId: uuid('volume_id')
      .notNull()
      .references(() => volumes.id, { onDelete: 'cascade' }),
    /** Relative to the volume's root; empty for all of it. */
    path: text('path').notNull(),
    role: text('role').$type<FileRole>().notNull(),
    declaredAt: at('declared_at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.volumeId, table.path] })],
)

/** One shot or recording. */
export const clips = pgTable(
  'clips',
  {
    id: id(),
    productionId: production(),
    name: text('name').notNull(),
    reel: text('reel'),
    /** Where the reel came from: the file itself, a rule, or a person. */
    reelFrom: text('reel_from').$type<'file' | 'sidecar' | 'rule' | 'person'>(),
    /** What people, logs and rules say of it, by field, each with where it came from. */
    described: jsonb('described')
      .$type<Record<string, { value: string; from: 'file' | 'sidecar' | 'rule' | 'person' }>>()
      .notNull()
      .default({}),
    createdAt: createdAt(),
  },
  (table) => [index('clips_production').on(table.productionId)],
)

/** The files of a clip: one, or one per essence, or a numbered sequence, or a spanned take. */
export const clipFiles = pgTable(
  'clip_files',
  {
    clipId: uuid('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    ordinal: integer('ordinal').notNull(),
    fileId: uuid('file_id')
      .notNull()
      .references(() => files.id, { onDelete: 'cascade' }),
    part: text('part').$type<FilePart>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.clipId, table.ordinal] }), index('clip_files_file').on(table.fileId)],
)

export type FilePart = 'whole' | 'picture' | 'sound' | 'frame' | 'span'

/** An original and what was made of it. */
export const pairs = pgTable(
  'pairs',
  {
    id: id(),
    clipId: uuid('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    kind: text('kind').$type<PairKind>().notNull(),
    /** Made by Ennick, or adopted as somebody else made it. Only what Ennick made may ever be deleted or set aside. */
    origin: text('origin').$type<'made' | 'adopted'>().notNull(),
    recipeId: text('recipe_id'),
    recipeVersion: integer('recipe_version'),
    viewingLut: text('viewing_lut'),
    /** The raster of the picture inside the made raster, when it was padded. */
    contentWidth: integer('content_width'),
    contentHeight: integer('content_height'),
    /** The sound that it was made of, where its clip was synced with a recording. */
    laidSound: jsonb('laid_sound').$type<LaidSound>(),
    /** Fingerprints of the original's files when the pair was tied, in order. */
    originalFingerprints: jsonb('original_fingerprints').$type<string[]>().notNull(),
    /** Fingerprints of the made files when they were checked, in order. */
    madeFingerprints: jsonb('made_fingerprints').$type<string[]>().notNull(),
    /** Whether both sides were seen together once; how they compare follows from what is known of them now. */
    isCompared: boolean('is_compared').notNull().default(false),
    /** What was proven of the pictures when they were made; it does not follow from facts. */
    proof: jsonb('proof').$type<EvidenceRow[]>(),
    /** Fingerprints of the files, the original's first, whose pictures were compared at last; null when none were. */
    picturesCompared: jsonb('pictures_compared').$type<string[]>(),
    /** False for one that a mend has replaced; it is kept so that the mend can be undone. */
    isActive: boolean('is_active').notNull().default(true),
    createdAt: createdAt(),
    checkedAt: at('checked_at'),
  },
  (table) => [index('pairs_clip').on(table.clipId)],
)

export const pairFiles = pgTable(
  'pair_files',
  {
    pairId: uuid('pair_id')
      .notNull()
      .references(() => pairs.id, { onDelete: 'cascade' }),
    ordinal: integer('ordinal').notNull(),
    fileId: uuid('file_id')
      .notNull()
      .references(() => files.id, { onDelete: 'cascade' }),
    part: text('part').$type<'whole' | 'picture' | 'sound'>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.pairId, table.ordinal] }), index('pair_files_file').on(table.fileId)],
)

/** A cut as it was read, with the list it came from kept word for word. */
export type CutBesides = Pick<
  Cut,
  'raster' | 'markers' | 'generators' | 'carried' | 'recordStartFrame' | 'nestedSequences'
>

export const cuts = pgTable('cuts', {
  id: id(),
  productionId: production(),
  name: text('name').notNull(),
  format: text('format').notNull(),
  fileName: text('file_name').notNull(),
  rateNumerator: integer('rate_numerator').notNull(),
  rateDenominator: integer('rate_denominator').notNull(),
  dropFrame: boolean('drop_frame').notNull(),
  tracks: jsonb('tracks').$type<{ name: string; kind: 'picture' | 'sound' }[]>().notNull(),
  /** The list, where it is text. */
  sourceText: text('source_text'),
  /** The list, where it is none. */
  sourceBytes: bytes('source_bytes'),
  /** The line of versions that it belongs to, and which of them it is. */
  lineId: uuid('line_id').notNull().defaultRandom(),
  version: integer('version').notNull().default(1),
  /** What the list says of the cut besides its events. */
  besides: jsonb('besides').$type<CutBesides>().notNull().default({}),
  /** What of the list was not taken, by a person's choice. */
  leftOut: jsonb('left_out').$type<LeftOut[]>().notNull().default([]),
  /** Goes up, by triggers, whenever the cut, an event or a decision of it changes. */
  revision: bigint('revision', { mode: 'number' }).notNull().default(0),
  createdAt: createdAt(),
})

/** An event of a cut, with the clip that a person or a mend chose for it. */
export const events = pgTable(
  'events',
  {
    cutId: uuid('cut_id')
      .notNull()
      .references(() => cuts.id, { onDelete: 'cascade' }),
    position: integer('position').notNull(),
    event: jsonb('event').$type<CutEvent>().notNull(),
    chosenClipId: uuid('chosen_clip_id').references(() => clips.id, { onDelete: 'set null' }),
    /** What it was on, of a cut that came back from an archive that lacks it. */
    awaited: jsonb('awaited').$type<AwaitedOriginal>(),
  },
  (table) => [primaryKey({ columns: [table.cutId, table.position] })],
)

/** Rows that a mend brought into the ledger, by table. */
export interface CreatedByMend {
  readonly volumeIds: readonly string[]
  readonly fileIds: readonly string[]
  readonly clipIds: readonly string[]
}

export type MendKind =
  | ('repoint' | 'make again' | 'restamp' | 'untie' | 'rename' | 'pad' | 'accept redelivery')
  /** Those of which a version of the cut comes. */
  | ('trim' | 'take apart' | 'replace from the start')

/** A mend with everything needed to take it back. */
export const mends = pgTable('mends', {
  id: id(),
  productionId: production(),
  cutId: uuid('cut_id').references(() => cuts.id, { onDelete: 'set null' }),
  kind: text('kind').$type<MendKind>().notNull(),
  title: text('title').notNull(),
  changes: jsonb('changes').$type<LinkChange[]>().notNull(),
  /** What it brought into the ledger, which goes again when it is taken back. */
  created: jsonb('created').$type<CreatedByMend>().notNull().default({ volumeIds: [], fileIds: [], clipIds: [] }),
  /** A mend that waits for a job is done when the job is. */
  state: text('state').$type<'waiting' | 'done' | 'failed' | 'undone'>().notNull(),
  createdAt: createdAt(),
  undoneAt: at('undone_at'),
})

/** When somebody was first shown a finding that is there still; one that goes and comes back is new again. */
export const findingFirsts = pgTable(
  'finding_firsts',
  {
    cutId: uuid('cut_id')
      .notNull()
      .references(() => cuts.id, { onDelete: 'cascade' }),
    /** A digest of its key, which may be longer than an index takes. */
    findingMark: text('finding_mark').notNull(),
    seenAt: at('seen_at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.cutId, table.findingMark] })],
)

/** A person's word on a blocking finding. */
export const decisions = pgTable(
  'decisions',
  {
    cutId: uuid('cut_id')
      .notNull()
      .references(() => cuts.id, { onDelete: 'cascade' }),
    findingKey: text('finding_key').notNull(),
    reason: text('reason').notNull(),
    decidedAt: at('decided_at').notNull().defaultNow(),
    /** What it was made on; null for those of before this was kept. */
    uses: jsonb('uses').$type<readonly DecidedUse[]>(),
  },
  // A key names what was decided upon, and may be long; an index takes less.
  (table) => [uniqueIndex('decisions_once').on(table.cutId, sql`md5(${table.findingKey})`)],
)

/** What was done, when and to what: a line for each change by a person or a job. */
export const history = pgTable(
  'history',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    productionId: production(),
    at: at('at').notNull().defaultNow(),
    subject: text('subject').notNull(),
    subjectId: text('subject_id'),
    what: text('what').notNull(),
  },
  (table) => [
    index('history_production').on(table.productionId, table.id),
    index('history_subject').on(table.subjectId),
  ],
)
