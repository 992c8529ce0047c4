import { writeFile } from 'node:fs/promises'
import {
  composition,
  sequence,
  shotOnTape,
  slot,
  sourceClip,
  timecode,
  writeAaf,
} from '../../../core/src/testing/aaf.ts'

// Writes an AAF of one event, ten frames into T001.mov, which starts at 11:01:00:00:
// node --import tsx server/src/testing/aaf-list.ts /tmp/mill.aaf
const [path = ''] = process.argv.slice(2)
const pal = [25, 1] as const
await writeFile(
  path,
  writeAaf([
    ...shotOnTape(10, 'T001.mov', { reel: 'T1', frames: 100, startFrame: (11 * 3600 + 60) * 25 }),
    composition(1, 'Mill, picture lock', [
      slot(1, pal, timecode(900_000, 25)),
      slot(2, pal, sequence('picture', [sourceClip('picture', 40, { mob: 10, start: 10 })])),
    ]),
  ]),
)
