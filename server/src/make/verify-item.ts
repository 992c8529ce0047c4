import {
  compareColour,
  comparePictures,
  compareTwin,
  decodeEvidence,
  type EncodePlan,
  type EvidenceRow,
  isAtomSet,
  isDecodedWhole,
  isStretching,
  type MadePart,
  madeColour,
  type PictureFacts,
  type PictureHash,
  rowsOfBurnIn,
  sampleFrames,
  sourceName,
} from '@ennick/core'
import { packetHash } from '../engine/packets.ts'
import { decodeMade, hashFrames, type Watch } from '../engine/picture-proof.ts'
import { describeFile, stampOf } from '../intake/describe-file.ts'
import { JobFailure } from '../queue/failure.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { type MakeOrder, openPaths, type Verified, type VerifiedFile } from './made-item.ts'

/**
 * Reads every file of an item back and compares it with its original.
 * @param hashes of every picture that went into the encoder
 * @throws JobFailure with every row that does not agree
 */
export async function verifyItem(
  material: Material,
  clip: KnownClip,
  order: MakeOrder,
  hashes: readonly PictureHash[],
  watch: Watch,
): Promise<Verified> {
  const { signal } = watch
  const { recipe, plan, partPaths, finalPaths } = order
  const parts = openPaths(order)
  const verified: VerifiedFile[] = []
  const madeParts: MadePart[] = []
  for (const [index, file] of plan.files.entries()) {
    const path = parts[index] as string
    const stamp = await stampOf(path).catch(() => null)
    if (!stamp) throw new JobFailure(`The encoder ended without writing ${file.name}.`)
    // Packets of the picture are counted: a container's own account is no proof.
    const described = await describeFile(path, stamp, { countPackets: file.part !== 'sound', signal })
    if (!described.facts)
      throw new JobFailure(`What was made of ${clip.name} cannot be read back: ${described.problem}`)
    verified.push({
      partPath: partPaths[index] as string,
      finalPath: finalPaths[index] as string,
      part: file.part,
      described,
    })
    madeParts.push({ part: file.part, name: file.name, facts: described.facts })
  }
  const { content } = plan.raster
  const facts = { ...plan.facts, sound: plan.tracks }
  const named = recipe.namePattern === sourceName ? {} : { plannedName: `${plan.base}${recipe.suffix}` }
  const checks = compareTwin(
    { name: plan.name, ...named, isStretched: isStretching(recipe), facts, reel: clip.reel },
    madeParts,
    material.production.proxySuffixes,
    {
      width: content.width,
      height: content.height,
    },
  )
  const colour = madeParts[0]?.facts.picture?.colour
  const proof: EvidenceRow[] = [
    ...(isAtomSet(plan) ? [oneClip(plan.files.length)] : []),
    ...(plan.method === 'encode'
      ? await provePictures(clip, plan, parts[0] as string, hashes, watch)
      : [await proveSamePackets(clip, parts[0] as string, signal)]),
    ...(colour ? [compareColour(madeColour(plan), colour)] : []),
  ]
  const wrong = [...checks, ...proof].filter((row) => !row.agrees)
  if (wrong.length) {
    const list = wrong
      .map(
        (row) =>
          `${row.aspect}: ${row.aspect === 'pictures' ? row.difference : `${row.found} instead of ${row.expected}`}`,
      )
      .join('; ')
    throw new JobFailure(`What was made of ${clip.name} is not its twin — ${list}. Nothing was kept of it.`, {
      checks: [...wrong, ...checks.filter((row) => row.agrees)],
    })
  }
  return {
    material,
    clip,
    recipe,
    plan,
    place: order.place,
    files: verified,
    checks: [...checks, ...proof],
    proof,
  }
}

/** The encoder's headers were made those of one clip, and read again, before anything was compared. */
const oneClip = (files: number): EvidenceRow => ({
  ...{ aspect: 'set', expected: `one clip of ${files} files`, agrees: true, difference: null },
  found: 'one material package, with the tracks of all',
})

/** Where the pictures were not encoded again, every one of them must be the original's own. */
async function proveSamePackets(clip: KnownClip, path: string, signal: AbortSignal): Promise<EvidenceRow> {
  const [original, made] = [await packetHash(clip.main.fullPath, signal), await packetHash(path, signal)]
  const agrees = original !== null && original === made
  return {
    aspect: 'content',
    expected: 'the original’s own pictures',
    found: agrees ? 'the same, packet for packet' : made === null ? 'not readable to its end' : 'others',
    agrees,
    difference: agrees
      ? null
      : `the checksums of the pictures are ${original ?? 'not known'} and ${made ?? 'not known'}`,
  }
}

/**
 * Looks at pictures of what was made beside those that went into the encoder: none may be wrong, shifted, black or
 * frozen. What stands in for an original, or leaves the house, is decoded from its first frame to its last.
 */
async function provePictures(
  clip: KnownClip,
  plan: EncodePlan,
  path: string,
  hashes: readonly PictureHash[],
  watch: Watch,
): Promise<EvidenceRow[]> {
  const { frames, rate } = plan.facts.picture as PictureFacts
  const isWhole = isDecodedWhole(plan.recipe)
  const made = await (isWhole ? decodeMade : hashFrames)(plan, path, sampleFrames(frames, rate), watch)
  if (typeof made === 'string')
    throw new JobFailure(`What was made of ${clip.name} does not decode cleanly: ${made}. Nothing was kept of it.`)
  return [
    comparePictures(hashes, made, rowsOfBurnIn(plan.recipe.burnIn?.heightPercent ?? null)),
    ...(isWhole ? [decodeEvidence(frames, null)] : []),
  ]
}
