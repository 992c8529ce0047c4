import { stat } from 'node:fs/promises'
import { dirname } from 'node:path'
import { distanceOfSignatures, ShapeIndex, shapesOf, signedFrames, signPictures, stretchStarts } from '@ennick/core'
import { lookAt } from '../engine/look.ts'
import { run } from '../engine/process.ts'
import { describeFile, stampOf } from '../intake/describe-file.ts'

// Measures, for the bench, what looking at a clip costs beside decoding it whole, and how long a large catalogue takes
// to say which clip shows the same: node --import tsx server/src/testing/signature.ts clip.mov 100000
const [path = '', count = '100000'] = process.argv.slice(2)
const turns = 5

async function secondsOf(work: () => Promise<unknown>): Promise<number> {
  const start = process.hrtime.bigint()
  await work()
  return Number(process.hrtime.bigint() - start) / 1e9
}

await stat(path)
const { facts } = await describeFile(path, await stampOf(path))
if (!facts?.picture) throw new Error(`${path} could not be read.`)
const starts = stretchStarts(facts.picture.frames, signedFrames)
const file = { fullPath: path, root: dirname(path), sequence: null, facts }
const look = async () =>
  signPictures((await lookAt(file, starts, signedFrames, new AbortController().signal)).stretches)
const decode = () => run('ffmpeg', ['-v', 'error', '-i', path, '-f', 'null', '-'], { isPolite: true })
const [looks, decodes, finds] = [[], [], []] as [number[], number[], number[]]
for (let turn = 0; turn < turns; turn++) {
  looks.push(await secondsOf(look))
  decodes.push(await secondsOf(decode))
}
const signature = await look()
const shapes = shapesOf(signature)
const others: { id: string; shapes: Int32Array }[] = Array.from({ length: Number(count) }, (_, id) => ({
  id: String(id),
  // Signs as they fall: of two others about half differ.
  shapes: shapes.map((_, word) => Math.imul(id + 1, 0x9e3779b1) ^ Math.imul(id + word, 0x85ebca6b)),
}))
const wanted = Math.floor(others.length / 2)
others[wanted] = { id: String(wanted), shapes }
const index = new ShapeIndex(others)
for (let turn = 0; turn < turns; turn++)
  finds.push(
    await secondsOf(async () => {
      const isFound = index.nearest(shapes, 12)[0] === String(wanted)
      if (!isFound || (distanceOfSignatures(signature, signature) ?? 1) > 0.01) throw new Error('It was not found.')
    }),
  )
const best = (list: readonly number[]): number => Math.min(...list)
console.log(JSON.stringify({ look: best(looks), decode: best(decodes), find: best(finds) }))
