import { lstat, mkdir, readdir, readFile, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { pause, say } from '../bench/measure.ts'
import type { Ennick } from '../ennick.ts'
import type { Chance } from './chance.ts'
import { checkFinished } from './check-finished.ts'
import { comeBack } from './come-back.ts'
import { contentOf, differences } from './disk.ts'
import { joinAndFetch } from './join-and-fetch.ts'
import { knownMade, madeUnlikeLedger } from './made-as-known.ts'
import { restampAndBack } from './restamp-and-back.ts'
import { ask, insist, makeClip, recipeId, retryAll, timecodeOf, untilIdle } from './stage.ts'
import { barePath, type Scene, troubles } from './troubles.ts'

const clips = 4
const names = Array.from({ length: clips }, (_, seed) => `K${seed}.mov`)

/** Everything that did not hold in a round, in words; nothing when all did. */
export async function tormentRound(ennick: Ennick, folder: string, chance: Chance, number: number): Promise<string[]> {
  const scene = await setStage(ennick, folder, chance, number)
  const before = await contentOf(join(folder, `card ${number}`))
  const order = insist(ennick, 'POST', `/productions/${scene.productionId}/make`, { clipIds: scene.clipIds, recipeId })
  await order
  await insist(ennick, 'POST', `/volumes/${scene.offload.volumeId}/offload`, scene.offload.body)
  await insist(ennick, 'POST', scene.pull.path, scene.pull.body)
  const chosen = [chance.pick(troubles), chance.pick(troubles), chance.pick(troubles)]
  for (const trouble of chosen) {
    await pause(chance.below(900))
    await trouble.make(scene)
  }
  say(`  round ${number}: ${chosen.map(({ name }) => name).join(', ')}`)
  const told = [...(await finish(scene)), ...(await inspect(scene, before, folder, number))]
  if (told.length) return told
  // Three is the turn of archives, which come back.
  return [comeBack, joinAndFetch, checkFinished, comeBack, restampAndBack, joinAndFetch][number % 6]?.(scene) ?? []
}

async function setStage(ennick: Ennick, folder: string, chance: Chance, number: number): Promise<Scene> {
  const [card, storage, travel] = ['card', 'storage', 'travel'].map((name) => join(folder, `${name} ${number}`)) as [
    string,
    string,
    string,
  ]
  for (let seed = 0; seed < clips; seed++)
    await makeClip(join(card, 'CLIPS', names[seed] as string), number * 7 + seed, 20 + 10 * seed)
  for (const place of [storage, travel]) await mkdir(place)
  const { id: productionId } = await insist(ennick, 'POST', '/productions', {
    ...{ name: `Torment ${number}`, rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
  })
  const add = (label: string, kind: string, rootPath: string) =>
    insist(ennick, 'POST', `/productions/${productionId}/volumes`, { label, kind, rootPath })
  const { id: volumeId } = await add('CARD', 'drive', card)
  const { id: destinationId } = await add('STORAGE', 'drive', storage)
  await insist(ennick, 'POST', `/volumes/${volumeId}/scan`)
  await untilIdle(ennick, productionId)
  const { ids: clipIds } = await insist(ennick, 'POST', `/productions/${productionId}/clips/ids`, {})
  const action = { kind: 'set', clipIds: chance.some(clipIds), field: 'scene', value: String(number) }
  await insist(ennick, 'POST', `/productions/${productionId}/clips/edit`, { action, apply: true })
  const plan = await insist(ennick, 'POST', `/productions/${productionId}/make/plan`, { clipIds, recipeId })
  const made: string = plan.places[0].path
  const outputs = plan.items.flatMap((item: { outputs: string[] }) => item.outputs.map((path) => join(made, path)))
  const text = Array.from({ length: clips }, (_, seed) => eventOf(number * 7 + seed, seed)).join('')
  const { id: cutId } = await insist(ennick, 'POST', `/productions/${productionId}/cuts`, {
    ...{ fileName: 'torment.edl', text: `TITLE: Torment\n${text}` },
  })
  // An archive in every third round; in the others whole files, or no more of them than is used.
  const isArchive = number % 3 === 0
  const isWhole = isArchive || number % 2 === 1
  const target = { folder: travel, name: 'pull' }
  const pull = isArchive
    ? {
        ...{ path: `/productions/${productionId}/archive`, told: `/productions/${productionId}/archives` },
        body: target,
      }
    : {
        ...{ path: `/cuts/${cutId}/pull`, told: `/cuts/${cutId}/pulls` },
        body: { ...target, of: 'originals', handles: isWhole ? null : 2 },
      }
  if (isWhole) outputs.push(...names.map((name) => join(travel, 'pull/CARD/CLIPS', name)))
  const offload = { volumeId, body: { destinationId, folder: 'copy', hash: 'xxh64' } }
  return {
    ennick,
    chance,
    productionId,
    clipIds,
    made,
    card,
    storage,
    travel,
    cutId,
    pull,
    isWhole,
    offload,
    outputs,
    foreign: [],
  }
}

/** An event of eight frames of the clip of a seed. */
function eventOf(seed: number, index: number): string {
  const label = timecodeOf(seed).slice(0, -2)
  const record = `01:00:0${index}:00 01:00:0${index}:08`
  return `00${index + 1}  T${seed} V C ${label}04 ${label}12 ${record}\n* FROM CLIP NAME: ${names[index]}\n`
}

/** Lets what was begun come to its end: takes away what lay in the way, and retries what failed for a reason. */
async function finish({ ennick, productionId, foreign, clipIds }: Scene): Promise<string[]> {
  const told: string[] = []
  for (const path of foreign) {
    await untilIdle(ennick, productionId)
    const there = await lstat(path).catch(() => null)
    if (!there || (there.isFile() && there.size !== Buffer.byteLength('somebody else’s')))
      told.push(`${path} was somebody else’s, and is not there as it was.`)
    else await rm(path)
  }
  for (let tries = 0; tries < 8; tries++) {
    const jobs = await untilIdle(ennick, productionId)
    const made = await ask(
      ennick,
      `select 1 from pairs join clips on clips.id = clip_id where production_id = $1 and is_active`,
      [productionId],
    )
    const open = jobs.filter((job) => job.state !== 'done')
    if (open.length === 0 && made.length === clipIds.length) return told
    told.push(...(await retryAll(ennick, open)))
    // What was stopped while something else made it need not be made.
    await insist(ennick, 'POST', `/productions/${productionId}/make`, { clipIds, recipeId })
    if (made.length === clipIds.length && open.every((job) => job.kind === 'make')) return told
    await pause(200)
  }
  const last = await untilIdle(ennick, productionId)
  return [
    ...told,
    ...last.filter((job) => job.state === 'failed').map((job) => `${job.title} cannot be done: ${job.error}`),
  ]
}

/** Pairs that are not well. A place that was away is looked for every other second: it may take its time to be seen. */
async function faultyPairs({ ennick, productionId }: Scene): Promise<{ name: string; verdict: string }[]> {
  for (let tries = 0; ; tries++) {
    const ledger: { pairs: { name: string; verdict: string }[] }[] = await insist(
      ennick,
      'GET',
      `/productions/${productionId}/pairs`,
    )
    const faulty = ledger.flatMap((row) => row.pairs).filter(({ verdict }) => !['proven', 'matched'].includes(verdict))
    if (!faulty.some(({ verdict }) => verdict.endsWith('away')) || tries === 60) return faulty
    await pause(500)
  }
}

/** Whether disk and ledger say the same, nothing of anybody else's was touched, and nothing lies about. */
async function inspect(
  scene: Scene,
  before: ReadonlyMap<string, string>,
  folder: string,
  number: number,
): Promise<string[]> {
  const { ennick, productionId, made, storage, clipIds } = scene
  await untilIdle(ennick, productionId)
  const wrong = differences(before, await contentOf(join(folder, `card ${number}`))).map(
    (line) => `Of the originals, ${line}.`,
  )
  wrong.push(...(await madeUnlikeLedger(scene)))
  const known = await knownMade(scene)
  for (const clipId of clipIds) {
    const inUse = known.filter((row) => row.clip_id === clipId && row.is_active)
    if (inUse.length !== 1) wrong.push(`A clip has ${inUse.length} proxies of one recipe in use.`)
  }
  for (const { name, verdict } of await faultyPairs(scene)) wrong.push(`${name} is ${verdict}.`)

  const copies = await contentOf(join(storage, 'copy'))
  for (const path of [...copies.keys()]) if (path.startsWith('ascmhl/')) copies.delete(path)
  wrong.push(...differences(before, copies).map((line) => `Of the copies, ${line}.`))
  wrong.push(...(await inspectPull(scene, before)))
  for (const place of [made, storage, scene.travel]) {
    const written = await readdir(barePath(place), { recursive: true }).catch(() => [])
    if (written.length) wrong.push(`${written.join(', ')} was written where ${place} was not.`)
  }
  return [...wrong, ...(await leftLying(ennick))]
}

/** What was pulled is what the cut uses, and nothing besides it and what tells of it lies there. */
async function inspectPull(
  { ennick, travel, pull, isWhole }: Scene,
  before: ReadonlyMap<string, string>,
): Promise<string[]> {
  const [newest]: { outcome: { lists: string; withoutLists: string | null; outstandingCount: number } | null }[] =
    await insist(ennick, 'GET', pull.told)
  const { lists, withoutLists, outstandingCount } = newest?.outcome ?? {}
  if (lists === undefined || withoutLists !== null || outstandingCount !== 0)
    return [`Of the pull ${outstandingCount} are outstanding, and its lists are not there: ${withoutLists}.`]
  const found = await contentOf(join(travel, 'pull'))
  const wrong: string[] = []
  const media = new Map<string, string>()
  for (const [path, content] of found) {
    if (path.startsWith('CARD/CLIPS/')) media.set(path.slice('CARD/'.length), content)
    else if (!/^(ascmhl|lists [^/]+)\//.test(path)) wrong.push(`Of the pull, ${path} is new.`)
  }
  const table = await readFile(join(travel, 'pull', lists, 'what is in it.csv'), 'utf8')
  for (const path of media.keys()) if (!table.includes(`CARD/${path}`)) wrong.push(`No table of a pull has ${path}.`)
  if (isWhole) wrong.push(...differences(before, media).map((line) => `Of the pull, ${line}.`))
  else if (media.size !== clips) wrong.push(`${media.size} stretches are in the pull, of ${clips} clips.`)
  return wrong
}

/** What lies about still when whoever started last has had the time to put things in order. */
async function leftLying(ennick: Ennick): Promise<string[]> {
  const until = Date.now() + 60_000
  for (;;) {
    const lying = await lyingAbout(ennick)
    if (lying.length === 0 || Date.now() > until) return lying
    await new Promise((resolve) => setTimeout(resolve, 250))
  }
}

/** What processes that are dead by now have left in the data folder. */
async function lyingAbout(ennick: Ennick): Promise<string[]> {
  const living = new Set((await ennick.processes((command) => /main-(server|worker)\.js/.test(command))).map(String))
  const names = await readdir(join(ennick.dataFolder, 'scratch')).catch(() => [] as string[])
  const dead = names.filter((name) => !living.has(name.split('.')[1] ?? ''))
  const parts = (await readdir(ennick.dataFolder, { recursive: true })).filter((path) => path.endsWith('.ennick-part'))
  return [...dead.map((name) => `scratch/${name} is a dead process’s.`), ...parts.map((path) => `${path} lies about.`)]
}
