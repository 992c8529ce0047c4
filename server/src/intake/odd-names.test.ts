import { execFile } from 'node:child_process'
import { mkdir, readdir, readFile, rename, rm, symlink, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Odd names')
  await mkdir(media('storage'))
})
afterAll(() => ennick.stop())

const media = (...names: string[]) => join(ennick.media, ...names)
/** A path whose bytes are Latin-1, and no UTF-8 where it has an accent. */
const latin1 = (path: string) => Buffer.from(path, 'latin1')
const put = async (path: string) => {
  await mkdir(dirname(path), { recursive: true })
  await writeFile(path, `what stands in ${path}`)
}
const storage = async () =>
  (await ennick.volume(productionId, 'STORAGE'))?.id ?? ennick.addVolume(productionId, 'STORAGE', media('storage'))
const order = async (folder: string) => ({ destinationId: await storage(), folder, hash: 'xxh64' })
const copied = async (folder: string) => (await readdir(media('storage', folder), { recursive: true })).sort()

describe('names that are no text', () => {
  let card: string
  let scan: Awaited<ReturnType<Harness['scan']>>
  beforeAll(async () => {
    await makePicture(media('A001/Prise 1.mov'), { frames: 5 })
    await rename(media('A001/Prise 1.mov'), latin1(media('A001/Prise é1.mov')))
    await makePicture(media('A001/Take 2.mov'), { frames: 5 })
    // What is no media is counted and not read, whatever it is called.
    await writeFile(latin1(media('A001/Léame.txt')), 'read me')
    await put(media('A001/inner.txt'))
    await mkdir(latin1(media('A001/été')))
    await rename(media('A001/inner.txt'), latin1(media('A001/été/inner.txt')))
    card = await ennick.addVolume(productionId, 'A001', media('A001'), 'card')
    scan = await ennick.scan(card)
  })

  test('are told by a scan, and everything else is scanned', async () => {
    expect(scan).toMatchObject({ state: 'failed', error: expect.stringContaining('is not written in UTF-8') })
    const problems = await ennick.call('listProblems', { params: { volumeId: card } })
    expect(problems.map(({ path }) => path).sort()).toEqual(['Prise \ufffd1.mov', '\ufffdt\ufffd'])
    expect((await ennick.volume(productionId, 'A001'))?.otherFiles).toBe(1)
    expect((await ennick.clips(productionId)).map(({ name }) => name)).toEqual(['Take 2.mov'])
  })

  test('are named before an offload and after it; the rest is copied, and it does not count as done', async () => {
    const plan = await ennick.call('planOffload', { params: { volumeId: card }, body: await order('A001') })
    expect(plan).toMatchObject({ files: 1, blocked: null })
    expect(plan.unreadable.map(({ path }) => path).sort()).toEqual([
      'L\ufffdame.txt',
      'Prise \ufffd1.mov',
      '\ufffdt\ufffd',
    ])
    const { id } = await ennick.call('offloadVolume', { params: { volumeId: card }, body: await order('A001') })
    expect(await ennick.waitForJob(id)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/^1 of 1 files are copied and verified\. .*not written in UTF-8/),
    })
    const { lines } = await ennick.call('readJobDetails', { params: { jobId: id } })
    expect(lines.map(({ path, state }) => [path, state]).sort()).toEqual([
      ['L\ufffdame.txt', 'not copied'],
      ['Prise \ufffd1.mov', 'not copied'],
      ['\ufffdt\ufffd', 'not copied'],
    ])
    expect(await copied('A001')).toContain('Take 2.mov')
  })
})

describe('what is neither file nor folder, hidden, or empty', () => {
  test('links, pipes and what is hidden are passed over and told; empty folders come along', async () => {
    for (const path of ['CLIP/1.txt', '.hidden/2.txt', 'CLIP/.3.txt', 'Thumbs.db']) await put(media('B001', path))
    await mkdir(media('B001/SUB/EMPTY'), { recursive: true })
    await put(media('secret.txt'))
    await symlink(media('secret.txt'), media('B001/CLIP/link.txt'))
    await symlink(media('storage'), media('B001/elsewhere'))
    await promisify(execFile)('mkfifo', [media('B001/CLIP/pipe')])
    const card = await ennick.addVolume(productionId, 'B001', media('B001'), 'card')
    const told = [
      { what: 'hidden or of the system', total: 3, first: ['Thumbs.db', '.hidden', 'CLIP/.3.txt'] },
      { what: 'link', total: 2, first: ['elsewhere', 'CLIP/link.txt'] },
      { what: 'neither file nor folder', total: 1, first: ['CLIP/pipe'] },
    ]
    const plan = await ennick.call('planOffload', { params: { volumeId: card }, body: await order('B001') })
    const sorted = (kinds: typeof plan.passedOver) =>
      kinds.map((kind) => ({ ...kind, first: kind.first.sort() })).sort((a, b) => (a.what < b.what ? -1 : 1))
    const expected = told.map((kind) => ({ ...kind, first: kind.first.sort() }))
    expect(sorted(plan.passedOver)).toEqual(expected)
    const others = await ennick.call('listOtherFiles', { params: { volumeId: card } })
    expect([others.paths, sorted(others.passedOver)]).toEqual([['CLIP/1.txt'], expected])
    const { id } = await ennick.call('offloadVolume', { params: { volumeId: card }, body: await order('B001') })
    expect(await ennick.waitForJob(id)).toMatchObject({
      state: 'done',
      summary: '1 file copied and read back · 6 passed over',
    })
    const { lines } = await ennick.call('readJobDetails', { params: { jobId: id } })
    expect(lines).toContainEqual({ path: 'CLIP/link.txt', state: 'passed over', detail: 'link' })
    expect((await copied('B001')).filter((path) => !path.startsWith('ascmhl'))).toEqual([
      ...['CLIP', 'CLIP/1.txt', 'SUB', 'SUB/EMPTY'],
    ])
    expect(await readFile(media('storage/B001/CLIP/1.txt'), 'utf8')).toContain('B001/CLIP/1.txt')
  })

  test('an empty folder in whose place a link stands is told, and nothing is made behind the link', async () => {
    await put(media('C001/1.txt'))
    await mkdir(media('C001/EMPTY/IN IT'), { recursive: true })
    await mkdir(media('private'))
    await mkdir(media('storage/C001'), { recursive: true })
    await symlink(media('private'), media('storage/C001/EMPTY'))
    const card = await ennick.addVolume(productionId, 'C001', media('C001'), 'card')
    const { id } = await ennick.call('offloadVolume', { params: { volumeId: card }, body: await order('C001') })
    expect(await ennick.waitForJob(id)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/EMPTY\/IN IT was not copied: .* is a link that leads to/),
    })
    expect(await readdir(media('private'))).toEqual([])
    await rm(media('storage/C001/EMPTY'))
    await ennick.call('retryJob', { params: { jobId: id } })
    expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done' })
    expect(await copied('C001')).toContain('EMPTY/IN IT')
  })
})
