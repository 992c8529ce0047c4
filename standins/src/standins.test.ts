import { mkdir, mkdtemp, readdir, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseTimecode, rate, recogniseCutFormat } from '@ennick/core'
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals'
import {
  CardBay,
  demoClips,
  demoVolumes,
  exportCuts,
  type PictureClip,
  readReadyCut,
  readyCuts,
  setProxies,
} from './index.ts'

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-standins-'))
})
afterEach(() => rm(folder, { recursive: true, force: true }))

describe('the card bay', () => {
  test('what is taken out is really not there, and comes back whole', async () => {
    await mkdir(join(folder, 'bay/A001'), { recursive: true })
    await writeFile(join(folder, 'bay/A001/x'), 'x')
    const bay = new CardBay(folder)
    await bay.move('A001', false)
    expect(await readdir(join(folder, 'bay'))).toEqual([])
    expect(await bay.slots()).toEqual([{ name: 'A001', isIn: false, path: join(folder, 'bay/A001') }])
    await bay.move('A001', true)
    expect((await stat(join(folder, 'bay/A001/x'))).size).toBe(1)
  })
  test('asking for what is so, or for what is not there, changes nothing', async () => {
    const bay = new CardBay(folder)
    await bay.move('nothing', true)
    expect(await bay.slots()).toEqual([])
  })
})

describe('the scenario', () => {
  const pictures = demoClips.filter((clip): clip is PictureClip => clip.kind === 'picture')
  const originals = demoClips.filter((clip) => clip.path.startsWith('bay/'))

  test('is as large and as varied as it has to be', () => {
    expect(originals.length).toBeGreaterThanOrEqual(14)
    expect(demoVolumes.length).toBeGreaterThanOrEqual(3)
    expect(pictures.some((clip) => clip.drop && clip.rate.numerator === 30_000)).toBe(true)
    expect(pictures.some((clip) => clip.channels === 4 && clip.width === 3840)).toBe(true)
    expect(pictures.some((clip) => clip.channels === 0)).toBe(true)
    expect(pictures.some((clip) => clip.pixelAspect === 2)).toBe(true)
  })
  test('every start timecode is one', () => {
    for (const clip of pictures) expect(parseTimecode(clip.start, clip.rate, clip.drop)).toBeGreaterThanOrEqual(0)
  })
  test('lies on its volumes, and no two files share a place', () => {
    const slots = demoVolumes.map((volume) => volume.slot)
    for (const clip of originals) expect(slots).toContain(clip.path.split('/')[1])
    expect(new Set(demoClips.map((clip) => clip.path)).size).toBe(demoClips.length)
  })
  test('every proxy from set has its original', () => {
    for (const proxy of setProxies) expect(demoClips.some((clip) => clip.path === proxy.original)).toBe(true)
  })
})

describe('the cutting room', () => {
  test('exports nothing without a demo', async () => {
    expect(await readyCuts(folder)).toEqual([])
  })
  test('its lists can be read, name sources by another system’s paths, and use what the scenario has', async () => {
    await exportCuts(folder)
    const names = new Set(
      demoClips.map((clip) =>
        clip.path
          .split('/')
          .at(-1)
          ?.replace(/\.\w+$/, ''),
      ),
    )
    for (const { fileName } of await readyCuts(folder)) {
      const text = await readReadyCut(folder, fileName)
      const cut = recogniseCutFormat(fileName, text).read(text, { rate: rate(25), fileName })
      expect(cut.events.length).toBeGreaterThan(5)
      for (const event of cut.events) {
        expect(names).toContain(event.clipName?.replace(/(_proxy)?\.\w+$/, ''))
        if (event.path) expect(event.path).toMatch(/^(file:\/\/\/P:|\/Volumes)\//)
      }
    }
  })
})
