import { createHash } from 'node:crypto'
import { existsSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
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

test('what a list in a store names is fetched in the background, with the state of each file', async () => {
  const md5 = (text: string): string => createHash('md5').update(text).digest('hex')
  const files = new Map([['/day 3/sheet 1.txt', 'one']])
  files.set('/day 3/list.md5', `${md5('one')}  sheet 1.txt\n${md5('two')}  sheet 2.txt\n`)
  /** The first sheet stands still half-way until it may go on. */
  let goOn = (): void => undefined
  const stands = new Promise<void>((resolve) => {
    goOn = resolve
  })
  const store = createServer(async ({ url = '' }, response) => {
    const path = decodeURIComponent(url)
    const text = files.get(path)
    if (text === undefined) return response.writeHead(404).end()
    response.writeHead(200, { 'content-length': text.length })
    response.write(text.slice(0, 1))
    if (path.endsWith('1.txt')) await stands
    return response.end(text.slice(1))
  })
  await new Promise<void>((resolve) => store.listen(0, '127.0.0.1', resolve))
  const address = `http://127.0.0.1:${(store.address() as AddressInfo).port}/day 3/list.md5`

  await stop('Intake')
  await page.getByRole('button', { name: 'Fetch from a store…' }).click()
  await dialog().getByLabel('Address of the list').fill(address.replace('list.md5', 'none.md5'))
  const choice = dialog().getByLabel('To', { exact: true })
  await choice.selectOption(
    (await choice.locator('option').filter({ hasText: 'MILL-RAID' }).getAttribute('value')) ?? '',
  )
  await dialog().getByLabel('into the folder').fill('day 3/sheets')
  await dialog().getByRole('button', { name: 'Read the list' }).click()
  await expect(dialog()).toContainText('The store does not have it.')
  await dialog().getByLabel('Address of the list').fill(address)
  await dialog().getByRole('button', { name: 'Read the list' }).click()
  await expect(dialog()).toContainText('the list does not say how large they are')
  await dialog().getByRole('button', { name: 'Fetch and verify 2 files' }).click()

  const fetching = volume('MILL-RAID').getByTestId('fetch')
  await expect(fetching).toContainText('0 of 2 files verified · 1 arriving · 1 refused')
  await fetching.getByRole('button', { name: 'Show the state of each file' }).click()
  await expect(fetching).toContainText('sheet 2.txt The store does not have it.')
  expect(existsSync(join(demo, 'storage/day 3/sheets/sheet 1.txt'))).toBe(false)
  goOn()
  await expect(fetching).toContainText('Fetch not done. 1 of 2 files are there and verified.')
  expect(existsSync(join(demo, 'storage/day 3/sheets/sheet 1.txt'))).toBe(true)
  files.set('/day 3/sheet 2.txt', 'two')
  await fetching.getByRole('button', { name: 'Retry the fetch' }).click()
  await expect(fetching).toContainText('Fetched: 1 file fetched and verified · 1 there already')
  store.close()
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

test('a card that was offloaded and taken out is not missed; what failed is dismissed', async () => {
  await stop('Intake')
  await page.getByRole('button', { name: 'Take out A003' }).click()
  await expect(volume('A003')).toContainText('Not missed: all picture and sound of it is here as well')
  await page
    .getByRole('navigation', { name: 'The line' })
    .getByRole('link', { name: /^Today/ })
    .click()
  await expect(page.getByText('1 volume is away and not missed')).toBeVisible()
  const failed = page.getByTestId('job').filter({ hasText: 'Offload A003' })
  await expect(failed).toContainText('0 of 1 files are copied and verified')
  await failed.getByRole('button', { name: 'Dismiss' }).click()
  await expect(failed).toHaveCount(0)
})
