import { appendFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll } from '@jest/globals'
import { run } from '../engine/process.ts'
import { readShelf, type Shelf, type Shot } from './drives-by-chance.ts'
import { type Harness, startHarness } from './harness.ts'
import { makePicture, makeRecording, makeTrackSet } from './media.ts'

const stills = [1, 2, 3, 4, 5, 6].map((number) => `P.000${number}.png`)
/**
 * Clips of several files: a take over two, a recording with a file for each track, MXF OP-Atom, numbered stills; and one
 * of one. An event is made of each, in order, and needs these of its files: of stills all, as they are held to be.
 */
export const partedShots: readonly Shot[] = [
  { files: ['A_001.mov', 'A_002.mov'], needs: ['A_002.mov'] },
  { files: ['T04_1.wav', 'T04_2.wav'], needs: ['T04_1.wav', 'T04_2.wav'] },
  { files: ['M_V1.mxf', 'M_A1.mxf'], needs: ['M_V1.mxf'] },
  { files: stills, needs: null },
  { files: ['C.mov'], needs: ['C.mov'] },
]

/** The events of an EDL, numbered in the order of the shots. */
export const partedEvents: readonly string[] = [
  '001  RA V C 10:00:01:05 10:00:01:15 01:00:01:00 01:00:01:10\n* FROM CLIP NAME: A.mov\n',
  '002  AX A C 11:00:00:05 11:00:00:15 01:00:02:00 01:00:02:10\n* FROM CLIP NAME: T04.wav\n',
  '003  RM V C 12:00:00:05 12:00:00:15 01:00:03:00 01:00:03:10\n* FROM CLIP NAME: M\n',
  '004  AX V C 00:00:00:02 00:00:00:04 01:00:04:00 01:00:04:02\n* FROM CLIP NAME: P.####.png\n',
  '005  RC V C 13:00:00:05 13:00:00:15 01:00:05:00 01:00:05:10\n* FROM CLIP NAME: C.mov\n',
]

/** An Ennick, and what may lie on its drives, for the tests of a file. */
export function partedHarness(): { readonly ennick: Harness; readonly shelf: Shelf } {
  const shared = {} as { ennick: Harness; shelf: Shelf }
  beforeAll(async () => {
    shared.ennick = await startHarness()
    shared.shelf = await makePartedShelf(join(shared.ennick.media, 'store'))
  })
  afterAll(() => shared.ennick.stop())
  return shared
}

/** Two deliveries of each. */
async function makePartedShelf(store: string): Promise<Shelf> {
  const deliveries = ['first', 'again']
  for (const [seed, delivery] of deliveries.entries()) {
    const folder = join(store, delivery)
    for (const [part, timecode] of ['10:00:00:00', '10:00:01:00'].entries())
      await makePicture(join(folder, `A_00${part + 1}.mov`), {
        seed: seed + 2 * part,
        timecode,
        reel: 'RA',
        frames: 25,
      })
    await makePicture(join(folder, 'C.mov'), { seed: seed + 9, timecode: '13:00:00:00', reel: 'RC', frames: 25 })
    for (const track of [1, 2]) {
      const tone = Float32Array.from({ length: 48_000 }, (_, at) => Math.sin((at * (track + 5 * seed)) / 20) / 4)
      await makeRecording(join(folder, `T04_${track}.wav`), [tone], { timeReference: 11 * 3600 * 48_000 })
    }
    await makeTrackSet(join(folder, 'M'), {
      ...{ tones: [300 + seed], timecode: '12:00:00:00', reel: 'RM', name: 'M', size: seed ? '320x180' : '640x360' },
    })
    const source = `testsrc2=s=320x180:r=25:d=0.24,hue=h=${90 * seed}`
    const made = ['-v', 'error', '-f', 'lavfi', '-i', source, join(folder, 'P.%04d.png')]
    if ((await run('ffmpeg', made)).exitCode !== 0) throw new Error('No stills could be made.')
    await padToOneSize(folder, ['A_001.mov', 'A_002.mov'])
  }
  return readShelf(store, deliveries, partedShots)
}

/** As files are that a camera ended at a limit. */
async function padToOneSize(folder: string, names: readonly string[]): Promise<void> {
  const sizes = await Promise.all(names.map(async (name) => (await stat(join(folder, name))).size))
  for (const [index, name] of names.entries()) {
    const padding = Buffer.alloc(Math.max(...sizes) + 64 - (sizes[index] as number))
    padding.writeUInt32BE(padding.length)
    padding.write('free', 4, 'latin1')
    await appendFile(join(folder, name), padding)
  }
}
