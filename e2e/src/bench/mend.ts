import { execFile } from 'node:child_process'
import { mkdir, readFile, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import pg from 'pg'
import type { Ennick } from '../ennick.ts'
import { pause, project, type Result, say, secondsOf } from './measure.ts'

const lost = 10_000
const short = (seconds: number): string => `${seconds.toFixed(2)} s`
const execute = promisify(execFile)

/** A cut of 5,000 events with 2,000 faults among 100,000 clips: landed, and all that is wrong with it found. */
export async function benchFindings(): Promise<Result> {
  say('Findings of a cut of 5,000 events with 2,000 faults among 100,000 clips')
  const { stdout } = await execute(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/findings.ts', '100000', '5000', '2000'],
    { cwd: project },
  )
  const { seconds, findings } = JSON.parse(stdout) as { seconds: number; findings: number }
  say(`  ${findings} findings in ${(seconds * 1000).toFixed(0)} ms`)
  return {
    id: 'findings',
    what: 'A cut of 5,000 events with 2,000 faults among 100,000 clips landed and found out, against 1 second',
    ratio: seconds,
    limit: 1,
  }
}

/** Very many lost originals repointed in one mend, and that taken back, while somebody else works. */
export async function benchMend(ennick: Ennick, folder: string): Promise<Result[]> {
  say(`${lost} originals repointed at once`)
  const { stdout } = await execute(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/many-clips.ts', String(lost), `Lost ${Math.random()}`],
    { cwd: project, env: { ...process.env, ENNICK_DATA: ennick.dataFolder } },
  )
  const productionId = stdout.trim()
  const client = new pg.Client({ connectionString: await readFile(join(ennick.dataFolder, 'database-url'), 'utf8') })
  await client.connect()
  try {
    const { cutId, searchJobId, choices } = await loseAll(ennick, client, productionId, join(folder, 'lost'))
    let longest = 0
    let isOver = false
    const others = (async () => {
      while (!isOver) {
        longest = Math.max(longest, await secondsOf(() => ennick.call('GET', '/productions')))
        await pause(50)
      }
    })()
    let mendId = ''
    const applied = await secondsOf(async () => {
      mendId = (await ennick.call('POST', `/cuts/${cutId}/repoint`, { searchJobId, choices })).id
    })
    const undone = await secondsOf(() => ennick.call('POST', `/mends/${mendId}/undo`))
    isOver = true
    await others
    say(`  applied in ${short(applied)}, undone in ${short(undone)}; others waited ${short(longest)} at most`)
    return [
      {
        id: 'mend-batch',
        what: `${lost} originals repointed in one mend, and that taken back: the slower of the two against 20 seconds`,
        ratio: Math.max(applied, undone) / 20,
        limit: 1,
      },
      {
        id: 'mend-others',
        what: 'What anybody else waited for an answer meanwhile at most, against 1 second',
        ratio: longest,
        limit: 1,
      },
    ]
  } finally {
    await client.end()
  }
}

/** Takes all files of a production away, lays them in another folder, and plans as a search would have. */
async function loseAll(ennick: Ennick, client: pg.Client, productionId: string, root: string) {
  const found = join(root, 'found')
  await mkdir(found, { recursive: true })
  await client.query('update volumes set root_path = $2, is_here = true where production_id = $1 and label = $3', [
    ...[productionId, root, 'REACH-1'],
  ])
  const { rows } = await client.query<{ clip_id: string; name: string; fingerprint: string; facts: object }>(
    `update files set is_gone = true from clip_files part join clips clip on clip.id = part.clip_id
     where part.file_id = files.id and clip.production_id = $1
     returning part.clip_id, clip.name, files.fingerprint, files.facts`,
    [productionId],
  )
  await client.query('insert into clip_staleness (production_id) values ($1)', [productionId])
  const second = (index: number): string =>
    `01:${String(Math.floor(index / 60)).padStart(2, '0')}:${String(index % 60).padStart(2, '0')}:00`
  const lines = rows.slice(0, 1000).map(({ name }, index) => {
    const times = `00:00:00:00 00:00:01:00 ${second(index)} ${second(index + 1)}`
    return `${String(index + 1).padStart(6, '0')}  AX V C ${times}\n* FROM CLIP NAME: ${name}.mov\n`
  })
  const cut = await ennick.call('POST', `/productions/${productionId}/cuts`, {
    ...{ fileName: 'lost.edl', text: `TITLE: Lost\n${lines.join('')}` },
  })
  const candidates: { id: string; [fact: string]: unknown }[] = []
  for (const { name, fingerprint, facts } of rows) {
    const path = join(found, `${name}.mov`)
    await writeFile(path, name)
    const { size, mtimeNs } = await stat(path, { bigint: true })
    const stamp = { sizeBytes: Number(size), mtimeMicros: Number(mtimeNs / 1000n) }
    candidates.push({ id: path, path, ...stamp, fingerprint, facts })
  }
  const wantedIds = rows.map(({ clip_id }) => `clip:${clip_id}`)
  const result = {
    ...{ kind: 'search', looked: rows.length, unreadable: [], scopes: [], candidates },
    things: rows.map(({ clip_id, name }, index) => ({
      ...{ id: wantedIds[index], label: name, clipId: clip_id, ordinal: 0, positions: [] },
    })),
    rows: rows.map((_, index) => ({
      ...{ wantedId: wantedIds[index], outcome: 'fits', candidateId: candidates[index]?.id, rule: null, reason: '' },
      rated: [{ candidateId: candidates[index]?.id, rating: { gates: [], evidence: [] } }],
    })),
  }
  const input = { kind: 'search', cutId: cut.id, folder: found, scopes: ['below'], findingKeys: null }
  const { rows: jobs } = await client.query<{ id: string }>(
    `insert into jobs (production_id, title, input, state, result) values ($1, 'Search', $2, 'done', $3) returning id`,
    [productionId, JSON.stringify(input), JSON.stringify(result)],
  )
  const choices = wantedIds.map((wantedId, index) => ({ wantedId, candidateId: candidates[index]?.id }))
  return { cutId: cut.id as string, searchJobId: jobs[0]?.id, choices }
}
