import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import { openWalk } from './walk.ts'

const data = process.env.ENNICK_TEST_DATA as string
const demo = join(data, 'demo')

const walk = openWalk()
const { heading, row, cell, dialog, volume, stop, filter } = walk
let page: Page
test.beforeAll(() => {
  page = walk.page
})

/** Adds what lies in the bay as a card. */
async function addCard(label: string): Promise<void> {
  await page.getByRole('button', { name: `Put in ${label}` }).click()
  await expect(page.getByRole('button', { name: `Take out ${label}` })).toBeVisible()
  await page.getByRole('button', { name: 'Add a volume' }).click()
  await page.getByLabel('Label on the box').fill(label)
  const picker = page.getByTestId('folder-picker')
  for (const name of [demo, 'bay', label]) await picker.getByRole('button', { name, exact: true }).click()
  await page.getByRole('button', { name: `Add ${label} and scan it` }).click()
}

async function offload(label: string, folder = label, left?: string): Promise<void> {
  await volume(label).getByRole('button', { name: 'Offload…' }).click()
  const choice = dialog().getByLabel('To', { exact: true })
  await choice.selectOption({
    label: (await choice.locator('option').filter({ hasText: 'MILL-RAID' }).textContent()) as string,
  })
  await dialog().getByLabel('into the folder').fill(folder)
  if (left) {
    const taken = dialog().getByTestId('taken-clips')
    await taken.getByLabel(`Take ${left}`).uncheck()
    await expect(taken.getByText(/^\d+ of \d+ clips taken, 1 left$/)).toBeVisible()
    await expect(dialog().getByText('1 file stays behind, by choice')).toBeVisible()
  }
  await dialog()
    .getByRole('button', { name: /^Copy and verify \d/ })
    .click()
}

test('a camera’s own proxy beside its original is paired', async () => {
  await stop('Intake')
  await expect(page.getByText('1 proxy made elsewhere found its original')).toBeVisible()
  await page.getByRole('button', { name: 'Evidence' }).click()
  await expect(page.getByText('SUB/B004C002.mov (480×270) → B004C002')).toBeVisible()
  await page.getByRole('button', { name: 'Pair 1 proxy' }).click()
  await expect(page.getByText('1 proxy made elsewhere found its original')).toHaveCount(0)
  await stop('Clips')
  await filter('B004C002')
  await expect(cell('B004C002.mov', 'proxy')).toHaveText('matched')
})

test('a card is offloaded, every copy is read back, and the manifest is verified', async () => {
  await stop('Intake')
  await expect(volume('A001')).toContainText('only on a card')
  // One clip is left on the card, by choice; it stays listed as only there, and comes with the next offload.
  await offload('A001', 'A001', 'A001C001_1104')
  await expect(volume('A001')).toContainText(/copied and read back · 1 left by choice/)
  await expect(volume('A001')).toContainText('only on a card')
  expect(existsSync(join(demo, 'storage/A001/CLIPS/A001C001_1104.mov'))).toBe(false)
  await offload('A001')
  await expect(volume('A001')).toContainText(/1 file copied and read back · \d+ were there already/)
  expect(existsSync(join(demo, 'storage/A001/CLIPS/A001C001_1104.mov'))).toBe(true)
  await page.getByRole('button', { name: 'Details of MILL-RAID' }).click()
  await expect(dialog().getByText(/^A001\/ascmhl\/0001_A001_.*\.mhl$/)).toBeVisible()
  await expect(dialog().getByText(/^A001\/ascmhl\/0002_A001_.*\.mhl$/)).toBeVisible()
  await dialog()
    .getByRole('button', { name: /^Verify \d/ })
    .first()
    .click()
  await expect(dialog().getByText(/^All \d+ files match$/)).toBeVisible()
  await dialog().getByLabel('Notes').fill('second shelf, blue')
  await dialog().getByRole('button', { name: 'Save' }).click()
  await expect(dialog().getByRole('button', { name: 'Save' })).toBeDisabled()
  await page.keyboard.press('Escape')
  await stop('Clips')
  await filter('A001C001_1104')
  await expect(row('A001C001_1104.mov')).toContainText('MILL-RAID')
  await expect(cell('A001C001_1104.mov', 'notice')).toHaveText('')
  await cell('A001C001_1104.mov', 'name').click()
  await expect(dialog().getByText('checksum read back')).toBeVisible()
  await page.keyboard.press('Escape')
})

test('a second card with a clashing file name stays apart', async () => {
  await stop('Intake')
  await addCard('A003')
  await expect(volume('A003')).toContainText('1 clip')
  await offload('A003', 'A001')
  await expect(volume('A003')).toContainText('Offload not done. 0 of 1 files are copied and verified.')
  await volume('A003').getByRole('button', { name: 'Show what to look at: 1 line' }).click()
  await expect(volume('A003')).toContainText('Another file of this name is there already.')
  await offload('A003')
  await expect(volume('A003')).toContainText('1 file copied and read back')
  await stop('Clips')
  await filter('A001C002_1104')
  await expect(heading()).toContainText('2 of')
  await expect(row('A001C002_1104.mov')).toHaveCount(2)
})

test('proxies that a camera uploads find their originals when its card comes', async () => {
  await stop('Intake')
  await page.getByRole('button', { name: 'Upload the next' }).click()
  await page.getByRole('button', { name: 'Upload the next' }).click()
  await expect(volume('UPLINK')).toContainText('2 proxies waiting for their originals')
  await expect(volume('UPLINK')).not.toContainText('cannot be read')
  await addCard('B003')
  await expect(page.getByText('2 proxies made elsewhere found their originals')).toBeVisible()
  await page.getByRole('button', { name: 'Pair 2 proxies' }).click()
  await expect(page.getByText('2 proxies made elsewhere found their originals')).toHaveCount(0)
  await expect(volume('UPLINK')).not.toContainText('waiting for their originals')
})

test('what came is told against the production, and leads to the clips that do not fit', async () => {
  await stop('Intake')
  const fit = page.getByTestId('fit')
  await expect(fit).toContainText('29.97: 1 clip')
  await expect(fit).toContainText('every use is converted')
  await fit.getByRole('link', { name: '29.97: 1 clip' }).click()
  await expect(heading()).toHaveText(/^1 of \d+ clips$/)
  await expect(page.getByRole('row').filter({ hasText: '29.97' })).toHaveCount(1)
})
