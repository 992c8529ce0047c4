import { mkdir, rename } from 'node:fs/promises'
import { join } from 'node:path'

/**
 * What happens to a production's media over a few weeks: a file renamed, one moved to a shelf, a card left in a bag.
 */
export async function plantFaults(demoFolder: string): Promise<void> {
  await rename(
    join(demoFolder, 'bay/TIDE-1/day 1/B001/B001C002.mov'),
    join(demoFolder, 'bay/TIDE-1/day 1/B001/wheel close, take 2.mov'),
  )
  await mkdir(join(demoFolder, 'shelf/unsorted'), { recursive: true })
  await rename(
    join(demoFolder, 'bay/A001/CLIPS/A001C004_1104.mov'),
    join(demoFolder, 'shelf/unsorted/A001C004_1104.mov'),
  )
}
