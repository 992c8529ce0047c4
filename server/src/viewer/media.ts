import { basename, dirname, relative } from 'node:path'
import type { playQuery } from '@ennick/contract'
import { add, divide, fraction, type MediaFacts, type Rate, rateAsFraction, toNumber } from '@ennick/core'
import type { Request, Response } from 'express'
import type { z } from 'zod'
import { withFolder, withHeld } from '../disk/held-folder.ts'
import { builtInLutPath } from '../engine/luts.ts'
import { mayPlay, type Played, play, renderedType } from '../engine/play.ts'
import { notFound, PlainError } from '../errors.ts'
import { assertInVolume, lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import type { KnownClip, KnownFile, Material } from '../store/known-material.ts'
import { placeOf, whyAway } from '../store/place-words.ts'
import { recordingFiles, soundLinkOf } from '../store/sound-link.ts'
import { clipFrameAt, lengthInFrames, type SideFiles, sidesOf } from './sides.ts'

const side = (clip: KnownClip, sideId: string): SideFiles => {
  const found = sidesOf(clip).find(({ id }) => id === sideId)
  if (!found) throw notFound('What was to be played')
  return found
}

const absent = (file: KnownFile): PlainError =>
  new PlainError(
    'not-here',
    file.presence === 'away'
      ? `${placeOf(file)} cannot be looked at. ${whyAway(file.volume)}`
      : `${file.path} is not on volume “${file.volume.label}” any more.`,
    { status: 404 },
  )

type Ready = KnownFile & { readonly facts: MediaFacts }

/** Makes sure that a file is there and inside of its volume. @throws PlainError, LedAway */
export async function ready(file: KnownFile): Promise<Ready> {
  if (file.presence !== 'here' || !file.facts) throw absent(file)
  const stamp = await lookForPlaced(file)
  if (stamp === null) throw absent({ ...file, presence: 'gone' })
  if (!sameStamp(file, stamp))
    throw new PlainError('changed', `${file.path} is another file now than the one that is known. Scan its volume.`, {
      status: 409,
    })
  await assertInVolume(file)
  return file as Ready
}

/** Renders a side of a clip for a screen, until it has been read or nobody reads it any more. */
export async function sendRender(
  { clip, material, rate }: { clip: KnownClip; material: Material; rate: Rate },
  { sideId, query }: { sideId: string; query: z.output<typeof playQuery> },
  request: Request,
  response: Response,
): Promise<void> {
  const { pictures, sound } = side(clip, sideId)
  const played = await rangeOf({ pictures, sound }, query, rate)
  const from = clipFrameAt(clip, sideId, query.from)
  const recorded = query.recording === 'yes' ? await syncedSound(material, clip, from, rate) : []
  // Asked last: nothing is waited for between this and the beginning.
  if (!mayPlay())
    throw new PlainError('busy', 'Three pictures are playing already. Stop one of them, and play this one again.', {
      status: 503,
    })
  const gone = new AbortController()
  response.on('close', () => gone.abort())
  request.on('aborted', () => gone.abort())
  const tracks = query.tracks === undefined ? null : query.tracks.split(',').filter(Boolean).map(Number)
  const all = { ...played, sound: [...played.sound, ...recorded], tracks, lut: builtInLutPath }
  response.status(200).set({ 'content-type': renderedType(all), 'cache-control': 'no-store', 'accept-ranges': 'none' })
  const complaint = await play(all, response, gone.signal)
  if (complaint !== null && !response.headersSent)
    throw new PlainError('no-render', `${clip.name} cannot be played: ${complaint}`, { status: 422 })
  response.end()
}

/** Which file a frame is in, and what of it is played; of several files what is left of the one alone. */
async function rangeOf(
  { pictures, sound }: Pick<SideFiles, 'pictures' | 'sound'>,
  query: z.output<typeof playQuery>,
  rate: Rate,
): Promise<Omit<Played, 'tracks' | 'lut'>> {
  const most = query.frames ?? Number.MAX_SAFE_INTEGER
  const beside = await Promise.all(sound.map(ready))
  const heardFrom = (frame: number, at: Rate): Played['sound'] =>
    beside.map((file) => ({ file, atSeconds: (frame * at.denominator) / at.numerator }))
  let before = 0
  for (const known of pictures) {
    const length = known.facts?.picture?.frames ?? 0
    if (query.from < before + length) {
      const picture = await ready(known)
      const startFrame = query.from - before
      const own = picture.facts.picture?.rate ?? rate
      return {
        ...{ picture, sound: heardFrom(startFrame, own), rate: own },
        range: { startFrame, endFrame: Math.min(length, startFrame + Math.min(most, length)) },
      }
    }
    before += length
  }
  if (pictures.length > 0 || beside.length === 0)
    throw new PlainError('past-the-end', 'There is nothing behind its last frame.', { status: 416 })
  // Sound alone: an hour at once, and of several files no longer than the longest, as none of them ends the others.
  const mostFrames = Math.ceil((3600 * rate.numerator) / rate.denominator)
  const length = Math.max(...beside.map(({ facts }) => lengthInFrames(facts, rate)))
  const left = length > 0 ? length - query.from : mostFrames
  if (left <= 0) throw new PlainError('past-the-end', 'There is nothing behind its end.', { status: 416 })
  const endFrame = query.from + Math.min(most, mostFrames, left)
  return { picture: null, sound: heardFrom(query.from, rate), rate, range: { startFrame: query.from, endFrame } }
}

/** The recording that a picture was synced with, from where it is heard at a frame of the clip. */
async function syncedSound(material: Material, clip: KnownClip, from: number, rate: Rate): Promise<Played['sound']> {
  const link = soundLinkOf(clip)
  const recordings = link && recordingFiles(material, link)
  if (!recordings) throw notFound('Its recording')
  const at = add(divide(link.offsetSamples, fraction(link.sampleRate)), divide(fraction(from), rateAsFraction(rate)))
  return Promise.all(recordings.map(async (file) => ({ file: await ready(file), atSeconds: toNumber(at) })))
}

/** Sends the very file of a side by ranges. It is opened once, and no link on the way to it is followed. */
export async function sendFile(clip: KnownClip, sideId: string, response: Response): Promise<void> {
  const { pictures, sound } = side(clip, sideId)
  const [only, ...others] = [...pictures, ...sound]
  if (!only || others.length > 0)
    throw new PlainError('several-files', `${clip.name} is not one file there, so it is rendered to be played.`)
  const file = await ready(only)
  await withHeld(file.root, (root) =>
    withFolder(root, relative(file.root, dirname(file.fullPath)), async (folder) => {
      const name = basename(file.fullPath)
      const open = await folder.open(name)
      try {
        await new Promise<void>((resolve, reject) =>
          response.sendFile(
            folder.pathOf(open, name),
            { dotfiles: 'allow', cacheControl: false, headers: { 'content-type': 'video/mp4' } },
            (error?: NodeJS.ErrnoException & { readonly status?: number }) => {
              if (error?.status === 416) reject(new PlainError('range', `${name} has no such bytes.`, { status: 416 }))
              else if (error && !['ECONNABORTED', 'ECONNRESET', 'EPIPE'].includes(error.code ?? '')) reject(error)
              else resolve()
            },
          ),
        )
      } finally {
        await open.close()
      }
    }),
  )
}
