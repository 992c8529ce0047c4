import {
  burnInPlaces,
  qualitySteps,
  recipeCodecs,
  recipeContainers,
  recipePurposes,
  recipeSounds,
  usualQuality,
} from '@ennick/core'
import { z } from 'zod'
import { id } from './common.ts'

const words = (most: number) => z.string().max(most)
const place = z.enum(burnInPlaces)

/** A recipe without its identity: what people write, copy, export and import. */
export const recipeDraft = z.object({
  name: words(80).trim().min(1, 'Give it a name.'),
  purpose: z.preprocess(
    // What was exported before says it so.
    (said) => (said === 'cutting, one file per essence' ? 'cutting, OP-Atom, one file per track' : said),
    z.enum(recipePurposes),
  ),
  about: words(300).trim().describe('What it is for, in a sentence'),
  codec: z.enum(recipeCodecs),
  container: z.enum(recipeContainers),
  quality: z
    .discriminatedUnion('kind', [
      z.object({ kind: z.literal('step'), step: z.enum(qualitySteps) }),
      z.object({
        kind: z.literal('rate'),
        kilobits: z.int().min(50, 'At least 50 kbit/s.').max(2_000_000).describe('A second, that it aims at'),
      }),
    ])
    .default(usualQuality)
    .describe('Where the codec leaves it open'),
  size: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('source') }),
    z.object({ kind: z.literal('divided'), by: z.union([z.literal(2), z.literal(4), z.literal(8)]) }),
    z
      .object({ kind: z.literal('nearest') })
      .describe('The smallest step, divided by 1, 2, 4 or 8, that is not below the production'),
    z.object({ kind: z.literal('production') }),
    z.object({ kind: z.literal('raster'), width: z.int().min(2).max(16_384), height: z.int().min(2).max(16_384) }),
  ]),
  fit: z.enum(['pad', 'crop', 'stretch']).describe('How a picture of another shape comes into a given raster'),
  pixels: z.enum(['square', 'kept']),
  scaling: z.enum(['quick', 'fine']),
  skipUpTo: z
    .object({ width: z.int().positive(), height: z.int().positive() })
    .nullable()
    .describe('Originals no larger are left as they are'),
  skipCodecs: z
    .array(words(60).trim().min(1))
    .max(50)
    .readonly()
    .default([])
    .describe('Originals of these codecs, as clips say theirs, are left as they are'),
  skipPlaying: z
    .int()
    .min(1)
    .max(64)
    .nullable()
    .default(null)
    .describe('Originals that play so many times at once, as it was measured, are left as they are'),
  viewingLut: words(80).nullable(),
  burnIn: z
    .object({
      timecode: place.nullable(),
      text: z.object({ words: words(200), place }).nullable(),
      heightPercent: z.number().min(1).max(12),
      boxPercent: z.number().min(0).max(100),
    })
    .nullable(),
  sound: z.enum(recipeSounds),
  tracks: z.object({
    keep: z
      .array(z.int().min(1).max(64))
      .max(64)
      .readonly()
      .nullable()
      .describe('Channels from 1 over all streams; null keeps all'),
    layout: z.enum(['as source', 'mono', 'stereo']),
    atLeast: z.int().min(0).max(64).describe('Silent channels are added until there are so many'),
  }),
  syncedSound: z.boolean().default(false).describe('A synced clip gets the tracks of its recording'),
  namePattern: words(200).describe(
    'With fields in braces: {source}, {reel}, {scene}, {take}, {day}, {camera}, {production}, {counter:3}',
  ),
  suffix: words(40),
  folders: z.discriminatedUnion('kind', [
    z.object({
      kind: z.literal('mirrored'),
      levels: z.int().min(0).max(20).nullable().describe('The last folders; null for all'),
    }),
    z.object({ kind: z.literal('numbered'), root: words(200), filesPerFolder: z.int().min(2).max(100_000) }),
  ]),
})

export const recipe = recipeDraft.extend({ id: z.string(), version: z.int() })

const contradiction = z.object({ level: z.enum(['error', 'warning']), message: z.string() })

export const offeredRecipe = recipe.extend({ isBuiltIn: z.boolean(), warnings: z.array(z.string()) })

/** A recipe as a file. */
export const recipeFile = z.object({ format: z.literal('ennick recipe'), recipe: recipeDraft })

export const recipeCheck = z.object({ contradictions: z.array(contradiction) })

export const recipePreview = z.object({
  before: z.string().describe('A frame of the original, as a data address'),
  after: z.string().describe('The same frame as the recipe makes it, decoded again'),
  facts: z.array(z.object({ what: z.string(), original: z.string(), made: z.string() })),
  contradictions: z.array(contradiction),
})

export const intakeRule = z.object({ id, searchId: id, search: z.string(), recipeId: z.string(), recipe: z.string() })
export const newIntakeRule = z.object({ searchId: id, recipeId: z.string() })

export type RecipeDraft = z.infer<typeof recipeDraft>
export type OfferedRecipe = z.infer<typeof offeredRecipe>
export type RecipePreview = z.infer<typeof recipePreview>
export type IntakeRule = z.infer<typeof intakeRule>
