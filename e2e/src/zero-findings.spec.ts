import { mkdir, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import { makeClip } from './torment/stage.ts'
import { openWalk } from './walk.ts'

/** A production in which sixty uses have one fault each, and which a person mends to the end in a few presses. */
const folder = join(process.env.ENNICK_TEST_DATA as string, 'demo', 'sixty')
const walk = openWalk()
const { dialog, heading } = walk
let page: Page
let productionId: string
const params = () => ({ headers: { 'content-type': 'application/json' } })
const post = async (path: string, data: object) => {
  const response = await page.request.post(`/api${path}`, { data, ...params() })
  expect(response.ok(), `${path}: ${await response.text()}`).toBe(true)
  return response.json()
}

const numbers = (count: number, from = 1) => Array.from({ length: count }, (_, index) => from + index)
const name = (letter: string, seed: number) => `${letter}${String(seed).padStart(3, '0')}.mov`
/** Who has which fault, by the seeds of the clips. */
const moved = numbers(24)
const short = numbers(12, 25)
const late = numbers(12, 37)
const unknown = numbers(6, 49)
const twice = numbers(6, 55)

/** An event of a list that uses ten frames of a clip, or as many as are asked for. */
function event(number: number, letter: string, seed: number, frames = 10): string {
  const two = (value: number): string => String(value).padStart(2, '0')
  const at = (second: number, frame: number): string => `${two(second)}:${two(frame)}`
  const source = `${two(10 + (seed % 10))}:${two(seed % 60)}`
  const record = `01:${two(Math.floor(number / 60))}:${two(number % 60)}`
  const times = `${source}:${at(0, 0)} ${source}:${at(0, frames)} ${record}:00 ${record}:${two(frames)}`
  return `${String(number).padStart(3, '0')}  T${seed}  V  C  ${times}\n* FROM CLIP NAME: ${name(letter, seed)}\n`
}

test.beforeAll(async () => {
  page = walk.page
  const [drive, vendor, shelf] = ['drive', 'vendor', 'shelf'].map((each) => join(folder, each)) as [
    string,
    string,
    string,
  ]
  const small = '160x90'
  for (const seed of moved) await makeClip(join(drive, 'day 1', name('M', seed)), seed, 12, small)
  for (const seed of short) await makeClip(join(drive, 'day 2', name('S', seed)), seed, 12, small)
  for (const seed of late) {
    await makeClip(join(drive, 'day 3', name('R', seed)), seed, 12, small)
    await makeClip(join(vendor, name('R', seed).replace('.mov', '_proxy.mov')), seed, 12, small, 2)
  }
  for (const seed of unknown) {
    await makeClip(join(shelf, name('U', seed)), seed, 12, small)
    await makeClip(join(shelf, 'again', name('U', seed)), seed, 14, small)
  }
  for (const seed of twice)
    for (const [index, frames] of [12, 14].entries())
      await makeClip(join(drive, `day ${4 + index}`, name('X', seed)), seed, frames, small)
  productionId = (
    await post('/productions', { name: 'Sixty', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 })
  ).id
  for (const label of ['drive', 'vendor']) {
    const volume = await post(`/productions/${productionId}/volumes`, {
      ...{ label, kind: 'drive', rootPath: join(folder, label) },
    })
    await post(`/volumes/${volume.id}/scan`, {})
    if (label === 'vendor')
      await page.request.put(`/api/volumes/${volume.id}/role`, { data: { path: '', role: 'proxy' }, ...params() })
  }
  await page.goto(`/p/${productionId}/intake`)
  await expect(walk.volume('drive').getByText(/^60 clips,/)).toBeVisible()
  await page.goto(`/p/${productionId}/pairs`)
  const offers = async () => {
    const listed = await page.request.get(`/api/productions/${productionId}/offers`)
    return (await listed.json()) as { fileId: string; clipId: string | null; rivals: { clipId: string }[] }[]
  }
  await expect.poll(async () => (await offers()).length).toBe(late.length)
  const choices = (await offers()).map(({ fileId, clipId, rivals }) => ({
    fileId,
    clipId: clipId ?? rivals[0]?.clipId,
  }))
  await post(`/productions/${productionId}/offers`, { fileIds: [], choices })
  // Somebody has moved the first day away after it was scanned.
  await mkdir(shelf, { recursive: true })
  await rename(join(drive, 'day 1'), join(shelf, 'day one'))
  await post(`/productions/${productionId}/check`, {})
  const events = [
    ...moved.map((seed) => ['M', seed, 10] as const),
    ...short.map((seed) => ['S', seed, 15] as const),
    ...late.map((seed) => ['R', seed, 10] as const),
    ...unknown.map((seed) => ['U', seed, 10] as const),
    ...twice.map((seed) => ['X', seed, 10] as const),
  ].map(([letter, seed, frames], index) => event(index + 1, letter, seed, frames))
  await post(`/productions/${productionId}/cuts`, { fileName: 'sixty.edl', text: `TITLE: Sixty\n${events.join('')}` })
  await page.goto(`/p/${productionId}/mend`)
})

const step = (words: RegExp) => page.getByTestId('step').filter({ hasText: words })

test('sixty findings are told, with the order in which they go away', async () => {
  await expect(heading()).toHaveText('60 findings block the handoff')
  await expect(step(/^1\D*Choose the original for 6 findings/)).toContainText('then 54 block')
  await expect(step(/Search for what 30 findings miss/)).toContainText('then 24 block')
  await expect(step(/Make again what is no twin of its original: 12 findings/)).toContainText('then 12 block')
  await expect(step(/Trim 12 uses by what is not there/)).toContainText('then nothing blocks')
})

test('one search finds thirty; where two fit, a choice for one carries over to the others', async () => {
  await step(/Search for what/)
    .getByRole('button', { name: /^Search for 30/ })
    .click()
  await dialog().getByLabel('A folder and all below it').check()
  const picker = page.getByTestId('folder-picker')
  for (const each of [join(folder, '..'), 'sixty', 'shelf'])
    await picker.getByRole('button', { name: each, exact: true }).click()
  await dialog().getByRole('button', { name: 'Search', exact: true }).click()
  await expect(dialog().getByRole('button', { name: 'Repoint 24 sources' })).toBeEnabled({ timeout: 300_000 })
  const open = dialog().getByTestId('repoint-row').and(page.locator('[data-outcome="ambiguous"]'))
  await expect(open).toHaveCount(6)
  await open
    .first()
    .getByRole('radio', { name: /shelf\/U\d+\.mov$/ })
    .check()
  await expect(open.first().getByRole('status')).toHaveText(/^5 others have a file by the same relation: in .*shelf/)
  await open.first().getByRole('button', { name: 'Take them too' }).click()
  for (const row of await open.all()) await expect(row.getByRole('radio', { name: /shelf\/U\d+\.mov$/ })).toBeChecked()
  await dialog().getByRole('button', { name: 'Repoint 30 sources' }).click()
  await expect(heading()).toHaveText('30 findings block the handoff')
})

test('six are chosen by a person: one by itself, the others by the same folder, when they were shown', async () => {
  const open = page.getByTestId('finding').filter({ hasText: 'originals fit' })
  const finding = open.first()
  await finding.getByRole('button', { name: 'Choose…' }).click()
  await finding.getByRole('button', { name: 'Use this one' }).first().click()
  await expect(open).toHaveCount(5)
  await finding.getByRole('button', { name: 'Choose…' }).click()
  await finding.getByRole('button', { name: '…and alike for 4 others' }).first().click()
  await expect(dialog()).toContainText(/By one rule for all: below .*drive\/day 4/)
  // Each is shown, and may be left out.
  await dialog().getByRole('checkbox').last().uncheck()
  await dialog().getByRole('button', { name: 'Use these for 4 findings' }).click()
  await expect(open).toHaveCount(1)
  await finding.getByRole('button', { name: 'Choose…' }).click()
  await finding.getByRole('button', { name: 'Use this one' }).first().click()
  await expect(open).toHaveCount(0)
  // That another clip has the name of each stays as a remark.
  await expect(heading()).toHaveText('24 findings block the handoff, 1 more to look at')
})

test('twelve proxies of a wrong stamp: one gets a copy, the others are made again together', async () => {
  const late = page.getByTestId('finding').filter({ hasText: 'differs from its original' })
  await late.first().getByRole('button', { name: 'Restamp a copy' }).click()
  await expect(late).toHaveCount(11, { timeout: 300_000 })
  await step(/Make again what is no twin/)
    .getByRole('button', { name: 'Make 11 proxies again' })
    .click()
  await expect(late).toHaveCount(0, { timeout: 400_000 })
  await expect(heading()).toContainText('12 findings block the handoff')
})

test('twelve uses give up what is not there, and nothing is in the way any more', async () => {
  await step(/Trim 12 uses/)
    .getByRole('button', { name: 'Trim 12 uses…' })
    .click()
  await dialog().getByRole('button', { name: 'Trim 12 uses as the next version' }).click()
  await expect(heading()).toHaveText('1 finding, none in the way of the handoff')
  await page.getByRole('tab', { name: /^Mends/ }).click()
  // What was done adds up: a search, three choices, a copy, eleven made again, a trim.
  await expect(page.getByTestId('mend').filter({ hasText: 'done' })).toHaveCount(17)
  await walk.stop('Handoff')
  await expect(page.getByRole('button', { name: 'Hand off 60 events on originals' })).toBeEnabled()
})
