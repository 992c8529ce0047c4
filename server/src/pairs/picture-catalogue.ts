import { basename } from 'node:path'
import {
  distanceOfSignatures,
  type PictureSignature,
  ShapeIndex,
  shapesOf,
  unpackSignature,
  whatItShows,
} from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { anyOf } from '../store/any-of.ts'
import { pictureSignatures } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import { clipFiles, clips, files } from '../store/schema.ts'

/** So many of those whose large shapes are nearest are compared in full. */
const nearest = 12
const askedAtOnce = 200

/** What the pictures of all originals of a production look like, to be asked which of them shows the same. */
export class PictureCatalogue {
  readonly #index: ShapeIndex
  readonly #clips: ReadonlyMap<string, { readonly name: string; readonly fingerprint: string }>

  private constructor(rows: readonly { clipId: string; path: string; fingerprint: string; shapes: Uint8Array }[]) {
    this.#index = new ShapeIndex(rows.map(({ clipId, shapes }) => ({ id: clipId, shapes: wordsOf(shapes) })))
    this.#clips = new Map(rows.map(({ clipId, path, fingerprint }) => [clipId, { name: basename(path), fingerprint }]))
  }

  static async read(database: Queryable, productionId: string): Promise<PictureCatalogue> {
    return new PictureCatalogue(
      await database
        .select({
          clipId: clipFiles.clipId,
          path: files.path,
          fingerprint: files.fingerprint,
          shapes: pictureSignatures.shapes,
        })
        .from(clipFiles)
        .innerJoin(clips, eq(clips.id, clipFiles.clipId))
        .innerJoin(files, eq(files.id, clipFiles.fileId))
        .innerJoin(pictureSignatures, eq(pictureSignatures.fingerprint, files.fingerprint))
        .where(and(eq(clips.productionId, productionId), eq(clipFiles.ordinal, 0))),
    )
  }

  /** The name of the clip that shows these pictures, when it is another than this one and no other shows them too. */
  async otherThan(database: Queryable, clipId: string, signature: PictureSignature): Promise<string | null> {
    const [distances] = await this.distances(database, [{ signature, clipIds: [clipId] }])
    const shown = whatItShows(distances as ReadonlyMap<string, number>)
    const same = [...shown].flatMap(([id, shows]) => (shows === 'the same' ? [id] : []))
    return same.length === 1 && same[0] !== clipId ? (this.#clips.get(same[0] as string)?.name ?? null) : null
  }

  /**
   * How far the pictures of clips are from some signatures: of those whose shapes are nearest, and of others that are
   * asked for. Those of which it cannot be told are left out. The signatures of clips are read a few hundred at a time.
   */
  async distances(
    database: Queryable,
    asked: readonly { readonly signature: PictureSignature; readonly clipIds: readonly string[] }[],
  ): Promise<ReadonlyMap<string, number>[]> {
    const answers: ReadonlyMap<string, number>[] = []
    for (let index = 0; index < asked.length; index += askedAtOnce) {
      const some = asked.slice(index, index + askedAtOnce).map(({ signature, clipIds }) => ({
        signature,
        clipIds: [...new Set([...clipIds, ...this.#index.nearest(shapesOf(signature), nearest)])],
      }))
      const marks = some.flatMap(({ clipIds }) => clipIds.flatMap((id) => this.#clips.get(id)?.fingerprint ?? []))
      const signatures = await readSignatures(database, [...new Set(marks)])
      for (const { signature, clipIds } of some) {
        const distances = new Map<string, number>()
        for (const clipId of clipIds) {
          const other = signatures.get(this.#clips.get(clipId)?.fingerprint ?? '')
          const distance = other ? distanceOfSignatures(other, signature) : null
          if (distance !== null) distances.set(clipId, distance)
        }
        answers.push(distances)
      }
    }
    return answers
  }
}

/** The signatures of some content, by its fingerprint. */
export async function readSignatures(
  database: Queryable,
  fingerprints: readonly string[],
): Promise<Map<string, PictureSignature>> {
  if (fingerprints.length === 0) return new Map()
  const rows = await database
    .select({ fingerprint: pictureSignatures.fingerprint, signature: pictureSignatures.signature })
    .from(pictureSignatures)
    .where(anyOf(pictureSignatures.fingerprint, fingerprints))
  return new Map(rows.map(({ fingerprint, signature }) => [fingerprint, unpackSignature(signature)]))
}

/** The words as they were written; a row of the database may begin at any byte. */
function wordsOf(bytes: Uint8Array): Int32Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return Int32Array.from({ length: bytes.length / 4 }, (_, index) => view.getInt32(index * 4, true))
}
