import { expect, type Page, test } from '@playwright/test'

const go = async (page: Page, stop: string): Promise<void> => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page
    .getByRole('navigation', { name: 'The line' })
    .getByRole('link', { name: new RegExp(`^${stop}`) })
    .click()
  await expect(page).toHaveURL(new RegExp(`/${stop.toLowerCase()}`))
  await expect(
    page.getByRole('navigation', { name: 'The line' }).getByRole('link', { name: new RegExp(`^${stop}`) }),
  ).toHaveAttribute('aria-current', 'page')
}

test('a job is stopped and retried from the queue; a reload shows the same place', async ({ page }) => {
  await go(page, 'Clips')
  await page.getByLabel('Filter clips').fill('A001C003')
  await page.getByRole('row').filter({ hasText: 'A001C003_1104.mov' }).getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Plan proxies of 1' }).click()
  await page.getByRole('radio', { name: 'HD, VC-3 at a fixed rate, OP-Atom' }).click()
  await expect(page.getByText('and 4 sound files')).toBeVisible()
  await expect(page.getByText('The same clips by each recipe')).toBeVisible()
  await page.getByRole('button', { name: 'Make 1 proxy' }).click()
  const job = page.getByTestId('job').filter({ hasText: 'A001C003_1104 → HD, VC-3' })
  await job.getByRole('button', { name: 'Stop' }).click()
  await expect(job).toHaveAttribute('data-state', 'cancelled')
  await page.reload()
  await expect(job).toHaveAttribute('data-state', 'cancelled')
  await job.getByRole('button', { name: 'Retry' }).click()
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 300_000 })
  await expect(page.getByTestId('worker')).toContainText('waits for work', { timeout: 300_000 })
  await job.getByRole('button', { name: 'Details' }).click()
  await expect(job.getByText(/A001C003_1104_V1\.mxf$/)).toBeVisible()
  await expect(job.getByText('4 × mono').first()).toBeVisible()
})

test('a cut is read, its paths are mapped, and it is taken out again', async ({ page }) => {
  await go(page, 'Cuts')
  await page.getByRole('button', { name: 'Read a cut' }).click()
  const list =
    'TITLE: Short visit\n001  R07 V C 01:00:01:00 01:00:02:00 10:00:00:00 10:00:01:00\n* SOURCE FILE: X:\\elsewhere\\TIDE-1\\archive\\R07_wheel_1961.mov\n'
  await page
    .getByLabel('List file')
    .setInputFiles({ name: 'visit.edl', mimeType: 'text/plain', buffer: Buffer.from(list, 'latin1') })
  await expect(page.getByText('from visit.edl')).toBeVisible()
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('The one event is on its original')
  await expect(page.getByRole('row').filter({ hasText: 'R07_wheel_1961.mov' })).toContainText('by name')
  await page.getByRole('button', { name: 'Add to the map' }).click()
  await expect(page.getByRole('row').filter({ hasText: 'R07_wheel_1961.mov' })).toContainText('by path')
  await page.getByRole('row').filter({ hasText: 'R07_wheel_1961.mov' }).click()
  await expect(
    page.getByRole('dialog').getByText('X:\\elsewhere\\TIDE-1\\archive\\R07_wheel_1961.mov').first(),
  ).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('tab', { name: 'Paths' }).click()
  await expect(page.getByText('1 event of this cut, 1 of them on a known file')).toBeVisible()
  await page.getByRole('button', { name: 'Remove' }).click()
  await page.getByRole('button', { name: 'Take out' }).click()
  await page.getByRole('button', { name: 'Take the cut out' }).click()
  await expect(page.getByText('from visit.edl')).toHaveCount(0)
})

test('a volume that is taken out is away everywhere, without a reload', async ({ page }) => {
  await go(page, 'Pairs')
  await page.getByLabel('Filter the ledger').fill('MIX-01')
  await expect(page.getByRole('row').filter({ hasText: 'LW_12A_T1.wav' })).toBeVisible()
  const slot = (isIn: boolean) => page.request.post('/api/standins/bay/MIX-01', { data: { isIn } })
  await slot(false)
  await expect(page.getByRole('row').filter({ hasText: 'LW_12A_T1.wav' })).toContainText('MIX-01, away')
  await slot(true)
  await expect(page.getByRole('row').filter({ hasText: 'LW_12A_T1.wav' })).not.toContainText('away')
})

test('the ledger is copied, to a second place as well, and a copy is taken', async ({ page }) => {
  await go(page, 'Intake')
  await page.goto(page.url().replace(/intake.*/, 'settings'))
  const answer = page.getByTestId('ledger-answer')
  await expect(answer).toHaveText(/^The ledger was not copied yet/)
  await page.getByRole('button', { name: 'Copy it now' }).click()
  await expect(answer).toHaveText(/^Last copied 20\d\d-.*, to the disk that it is on\. Choose a second place/)
  const copies = page.getByRole('list', { name: 'Copies of the ledger' }).getByRole('listitem')
  await expect(copies).toHaveText([/in the data folder/])
  await page.getByRole('button', { name: 'A second place…' }).click()
  const picker = page.getByTestId('folder-picker')
  await picker.getByRole('button', { name: /demo/ }).first().click()
  await picker.getByRole('button', { name: /finishing/ }).click()
  await expect(picker).toContainText(/demo\/finishing/)
  await page.getByRole('button', { name: 'Copy it there' }).click()
  await expect(answer).toHaveText(/to both places; but they are on one disk/)
  await expect(copies).toHaveText([/in both places/])
  const taking = page.waitForEvent('download')
  await copies.getByRole('link', { name: /^Take the copy of/ }).click()
  expect((await taking).suggestedFilename()).toMatch(/^ennick-ledger-\d{8}-\d{6}\.zip$/)
})
