import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import { makeClip } from './torment/stage.ts'
import { openWalk } from './walk.ts'

const folder = join(process.env.ENNICK_TEST_DATA as string, 'demo', 'tie')
const walk = openWalk()
const { row, dialog, post } = walk
let page: Page
let productionId: string
const elsewhere = () => page.getByRole('tab', { name: /^Made elsewhere/ }).click()
const ledger = () => page.getByRole('tab', { name: 'Ledger' }).click()

test.beforeAll(async () => {
  for (const seed of [1, 2, 3, 4]) await makeClip(join(folder, 'originals', `N00${seed}.mov`), seed)
  await makeClip(join(folder, 'vendor/PROXY/N001_proxy.mov'), 1, 25, '320x180')
  // Two seconds late: their pictures are right, and their timecode is not.
  for (const seed of [2, 4]) await makeClip(join(folder, `vendor/PROXY/N00${seed}_proxy.mov`), seed, 25, '320x180', 2)
  page = walk.page
  productionId = (
    await post('/productions', { name: 'Tie', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 })
  ).id
  for (const [label, name] of [
    ['DRIVE', 'originals'],
    ['VENDOR', 'vendor'],
  ] as const) {
    const volume = await post(`/productions/${productionId}/volumes`, {
      ...{ label, kind: 'drive', rootPath: join(folder, name) },
    })
    await post(`/volumes/${volume.id}/scan`, {})
  }
  await page.goto(`/p/${productionId}/intake`)
  await expect(page.getByTestId('volume-VENDOR').getByText(/^3 clips,/)).toBeVisible()
})

test('a folder is said to hold proxies; the one that fits is paired, the faulty one decided by hand', async () => {
  await page.getByRole('button', { name: 'Details of VENDOR' }).click()
  await dialog().getByLabel('A folder of proxies').fill('PROXY')
  await dialog().getByRole('button', { name: 'It holds proxies' }).click()
  await expect(dialog().getByLabel('What PROXY holds')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.goto(`/p/${productionId}/pairs`)
  await elsewhere()
  const faulty = page.getByTestId('offer').filter({ hasText: 'N002_proxy.mov' })
  // Its name and its pictures are those of its original: once they were looked at, only its stamp is wrong.
  await expect(faulty).toContainText('mismatched')
  await expect(faulty).toContainText(/timecode: 12:02:00:00 \/ 12:02:02:00/)
  // Both pictures stand beside what is said of them.
  await expect(faulty.getByTestId('both-pictures').locator('img')).toHaveCount(2)
  await page.getByRole('button', { name: 'Pair 1 proxy' }).click()
  await expect(page.getByTestId('offer').filter({ hasText: 'N001_proxy.mov' })).toHaveCount(0)
  await faulty.getByRole('button', { name: 'Pair', exact: true }).click()
  await expect(faulty).toHaveCount(0)
  await ledger()
  await expect(row('N002_proxy.mov')).toContainText('mismatched')
  // Its pictures are compared in the background.
  await expect(row('N001_proxy.mov')).toContainText('proven')
})

test('an adopted pair is untied with its file kept, and tied to another clip by hand', async () => {
  await row('N002_proxy.mov').click()
  await dialog().getByRole('button', { name: 'Untie it, and keep its files' }).click()
  // What lies behind an open sheet is hidden: that it is closed says that it was done.
  await expect(dialog()).toHaveCount(0)
  await expect(row('N002_proxy.mov')).toHaveCount(0)
  expect(existsSync(join(folder, 'vendor/PROXY/N002_proxy.mov'))).toBe(true)
  await elsewhere()
  await expect(page.getByText('2 proxies made elsewhere found their originals')).toBeVisible()
  const offer = page.getByTestId('offer').filter({ hasText: 'N002_proxy.mov' })
  await offer.getByRole('button', { name: 'with another…' }).click()
  await offer.getByLabel(/^Find the original/).fill('N003')
  await offer.getByLabel(/^Original of/).selectOption('N003.mov')
  await offer.getByRole('button', { name: 'Pair', exact: true }).click()
  await expect(offer).toHaveCount(0)
  await ledger()
  await expect(row('N002_proxy.mov')).toContainText('mismatched')
})

test('a faulty stamp is mended by a copy with the right one; the file itself stays', async () => {
  await elsewhere()
  const offer = page.getByTestId('offer').filter({ hasText: 'N004_proxy.mov' })
  await offer.getByRole('button', { name: 'Pair', exact: true }).click()
  await expect(offer).toHaveCount(0)
  await ledger()
  await expect(row('N004_proxy.mov')).toContainText('mismatched')
  await row('N004_proxy.mov').click()
  await dialog()
    .getByRole('button', { name: /^Restamp/ })
    .click()
  await expect(row('N004_proxy.mov')).toContainText('proven')
  expect(existsSync(join(folder, 'vendor/PROXY/N004_proxy.mov'))).toBe(true)
})

test('what was made is released with its bytes first; what others made is kept, and says why', async () => {
  await page.goto(`/p/${productionId}/clips?q=N003`)
  await page.getByRole('checkbox', { name: 'Mark all rows' }).click()
  await page.getByRole('button', { name: /^Plan proxies of/ }).click()
  await page.getByRole('button', { name: 'Make 1 proxy' }).click()
  const job = page.getByTestId('job').filter({ hasText: 'N003' })
  await expect(job).toBeVisible()
  await expect(job).toHaveAttribute('data-state', /done|failed|cancelled/, { timeout: 400_000 })
  expect(await job.getAttribute('data-state'), (await job.textContent()) ?? '').toBe('done')
  await page.goto(`/p/${productionId}/pairs?q=N003`)
  await expect(row('N003_proxy.mov')).toContainText('proven')
  await row('N003_proxy.mov').click()
  await dialog().getByRole('button', { name: 'Untie it, and keep its files' }).click()
  // What lies behind an open sheet is hidden: that it is closed says that it was done.
  await expect(dialog()).toHaveCount(0)
  await expect(row('N003_proxy.mov')).toHaveCount(0)
  await page.goto(`/p/${productionId}/mend`)
  const untied = page.getByTestId('mend').filter({ hasText: 'Untie N003_proxy.mov from N003' })
  await untied.getByRole('button', { name: 'Take back' }).click()
  await expect(untied).toHaveAttribute('data-state', 'undone')
  await page.goto(`/p/${productionId}/pairs?q=N003`)
  await expect(row('N003_proxy.mov')).toContainText('proven')
  await page.getByRole('button', { name: 'Release 1…' }).click()
  await expect(dialog().getByText(/Would free/)).toBeVisible()
  await dialog()
    .getByRole('button', { name: /^Delete 1 made item, / })
    .click()
  await expect(dialog().getByText(/Freed:/)).toBeVisible()
  await dialog().getByRole('button', { name: 'Close', exact: true }).last().click()
  await expect(row('N003_proxy.mov')).toHaveCount(0)
})

test('what its recipe would call otherwise by now is renamed, and called back', async () => {
  const recipes: Record<string, unknown>[] = await (await page.request.get('/api/recipes')).json()
  const half = recipes.find(({ id }) => id === 'half-h264-intra')
  const draft = { ...half, name: 'Half size, by scene', namePattern: 'Scene {scene} {source}', suffix: '' }
  const recipe = await post('/recipes', draft)
  const { rows } = await post(`/productions/${productionId}/clips/search`, {})
  const clipIds = [rows.find(({ name }: { name: string }) => name === 'N001.mov').id]
  const say = (value: string) =>
    post(`/productions/${productionId}/clips/edit`, {
      action: { kind: 'set', clipIds, field: 'scene', value },
      apply: true,
    })
  await say('11')
  await post(`/productions/${productionId}/make`, { clipIds, recipeId: recipe.id })
  await page.goto(`/p/${productionId}/pairs?q=N001`)
  await expect(row('Scene 11 N001.mov')).toContainText('proven')
  await say('12')
  await row('Scene 11 N001.mov').click()
  await dialog().getByRole('button', { name: 'Rename to Scene 12 N001.mov' }).click()
  await expect(dialog().getByRole('heading', { name: 'Scene 12 N001.mov' })).toBeVisible()
  await expect(dialog().getByRole('button', { name: /^Rename to/ })).toHaveCount(0)
  const made = async () => ((await page.getByText(/Scene 1\d N001\.mov$/).allTextContents()) ?? []).join(' ')
  expect(await made()).toContain('Scene 12 N001.mov')
  await page.goto(`/p/${productionId}/mend`)
  const mend = page.getByTestId('mend').filter({ hasText: 'Rename Scene 11 N001.mov to Scene 12 N001.mov' })
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(mend).toHaveAttribute('data-state', 'undone')
  await page.goto(`/p/${productionId}/pairs?q=N001`)
  await expect(row('Scene 11 N001.mov')).toContainText('proven')
})
