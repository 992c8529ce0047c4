import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type Cut, type CutEvent, cutFormats, normalSpeed, rate } from '@ennick/core'

// Writes a long cut in every format, and its next version, into a folder, and prints how long the bare reading of each
// takes: node --import tsx server/src/testing/long-cuts.ts /tmp/cuts 5000
const [folder = '', count = '5000'] = process.argv.slice(2)
const turns = 5

/** Events of ten to fifty frames; every third carries a dissolve, every fifth a speed. */
function longCut(events: number, name: string, change: (event: CutEvent, index: number) => CutEvent): Cut {
  let at = 90_000
  const list = Array.from({ length: events }, (_, index): CutEvent => {
    const frames = 10 + ((index * 7) % 40)
    const isFast = index % 5 === 4
    const startFrame = 900_000 + ((index * 4007) % 500_000)
    const record = { startFrame: at, endFrame: at + frames }
    at += frames
    return change(
      {
        number: String(index + 1).padStart(3, '0'),
        track: 'V1',
        kind: 'picture',
        clipName: `A${String(index % 400).padStart(3, '0')}C001.mov`,
        reel: `A${String(index % 400).padStart(3, '0')}`,
        path: `/Volumes/REACH/A${index % 400}/A${String(index % 400).padStart(3, '0')}C001.mov`,
        source: { startFrame, endFrame: startFrame + frames * (isFast ? 2 : 1) },
        sourceRate: rate(25),
        mediumStartFrame: null,
        record,
        transition: index % 3 === 2 ? { kind: 'dissolve', wipeCode: null, durationFrames: 5 } : null,
        speed: isFast ? { numerator: 2, denominator: 1 } : normalSpeed,
        notes: [],
        location: '',
      },
      index,
    )
  })
  return { name, rate: rate(25), dropFrame: false, tracks: [{ name: 'V1', kind: 'picture' }], events: list }
}

const cut = longCut(Number(count), 'Long', (event) => event)
const next = longCut(Number(count), 'Long, next', (event, index) => {
  const record = { startFrame: event.record.startFrame + 25, endFrame: event.record.endFrame + 25 }
  return index % 50 === 0
    ? { ...event, record, clipName: 'N001C001.mov', reel: 'N001', path: null }
    : { ...event, record }
})
const read: Record<string, number> = {}
for (const format of cutFormats) {
  const text = format.write(cut)
  await writeFile(join(folder, `long${format.extension}`), text)
  await writeFile(join(folder, `next${format.extension}`), format.write(next))
  let quickest = Number.POSITIVE_INFINITY
  for (let turn = 0; turn < turns; turn++) {
    const start = process.hrtime.bigint()
    format.read(text, { rate: rate(25), fileName: 'long' })
    quickest = Math.min(quickest, Number(process.hrtime.bigint() - start) / 1e9)
  }
  read[format.extension] = quickest
}
console.log(JSON.stringify(read))
