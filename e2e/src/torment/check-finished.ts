import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { pause, run, say } from '../bench/measure.ts'
import { contentOf, differences } from './disk.ts'
import { insist, untilDone, untilIdle } from './stage.ts'
import { killsAndFreezes, type Scene } from './troubles.ts'

/**
 * Renders the cut and holds that against its originals, while workers die. @returns what did not hold: the same answer
 * as in quiet, every event as cut, and no file touched
 */
export async function checkFinished(scene: Scene): Promise<string[]> {
  const { ennick, chance, productionId, cutId, card, travel } = scene
  const renders = join(travel, 'renders')
  await mkdir(renders)
  await render(scene, join(renders, 'finished.mov'))
  const before = [await contentOf(renders), await contentOf(card)] as const
  const order = () =>
    insist(ennick, 'POST', `/cuts/${cutId}/finished`, { folder: renders, name: 'finished.mov', start: null })
  await order()
  const chosen = [chance.pick(killsAndFreezes), chance.pick(killsAndFreezes)]
  for (const trouble of chosen) {
    await pause(chance.below(600))
    await trouble.make(scene)
  }
  say(`    and the check of a finished file: ${chosen.map(({ name }) => name).join(', ')}`)
  const told = await untilDone(ennick, productionId)
  await order()
  await untilIdle(ennick, productionId)
  const [quiet, beset]: { outcome: { events: number; asCut: number } | null }[] = await insist(
    ennick,
    'GET',
    `/cuts/${cutId}/finished`,
  )
  if (JSON.stringify(quiet?.outcome) !== JSON.stringify(beset?.outcome))
    told.push(`A finished file was ${JSON.stringify(beset?.outcome)}, and in quiet ${JSON.stringify(quiet?.outcome)}.`)
  if (!quiet?.outcome || quiet.outcome.asCut !== quiet.outcome.events)
    told.push(`A finished file is as cut, and was said to be ${JSON.stringify(quiet?.outcome)}.`)
  told.push(...differences(before[0], await contentOf(renders)), ...differences(before[1], await contentOf(card)))
  return told
}

/** The cut of `eventOf`: eight frames of each clip from its fifth on, at the beginning of each second. */
async function render({ card, clipIds }: Scene, path: string): Promise<void> {
  const inputs = clipIds.flatMap((_, index) => ['-i', join(card, 'CLIPS', `K${index}.mov`)])
  const graph = clipIds.map(
    (_, index) =>
      `[${index}:v]trim=start_frame=4:end_frame=12,setpts=N/25/TB,fps=25,format=yuv420p,tpad=stop=17:color=black[v${index}]`,
  )
  const all = `${clipIds.map((_, index) => `[v${index}]`).join('')}concat=n=${clipIds.length}[v]`
  const code = await run('ffmpeg', [
    ...['-v', 'error', '-y', ...inputs, '-filter_complex', `${graph.join(';')};${all}`, '-map', '[v]', '-r', '25'],
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '18', '-timecode', '01:00:00:00', path],
  ])
  if (code !== 0) throw new Error('The encoder could not render a finished file.')
}
