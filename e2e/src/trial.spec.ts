import { mkdir, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import { makeClip } from './torment/stage.ts'
import { openWalk } from './walk.ts'

/** A cut is tried alone: what is mended there is kept in its production, or thrown away. */
const folder = join(process.env.ENNICK_TEST_DATA as string, 'demo', 'trial')
const [bay, shelf] = [join(folder, 'bay'), join(folder, 'shelf')]
const walk = openWalk()
const { dialog, heading, post } = walk
let page: Page
let home: string

test.beforeAll(async () => {
  page = walk.page
  await mkdir(shelf, { recursive: true })
  for (const seed of [1, 2]) await makeClip(join(bay, `R00${seed}.mov`), seed)
  const { id } = await post('/productions', {
    ...{ name: 'Neap', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
  })
  home = `/p/${id}`
  const added = await post(`/productions/${id}/volumes`, { label: 'EBB', kind: 'drive', rootPath: bay })
  await post(`/volumes/${added.id}/scan`, {})
  await page.goto(`${home}/intake`)
  await expect(page.getByTestId('volume-EBB').getByText(/^2 clips,/)).toBeVisible()
  await rename(join(bay, 'R001.mov'), join(shelf, 'found again.mov'))
  await post(`/productions/${id}/check`, {})
  const events = [1, 2].map((seed) => {
    const times = `1${seed}:0${seed}:00:02 1${seed}:0${seed}:00:12 01:00:0${seed}:00 01:00:0${seed}:10`
    return `00${seed}  T${seed}  V  C  ${times}\n* FROM CLIP NAME: R00${seed}.mov\n`
  })
  await post(`/productions/${id}/cuts`, { fileName: 'ebb.edl', text: `TITLE: Ebb tide\n${events.join('')}` })
  await page.goto(`${home}/mend`)
  await expect(heading()).toHaveText('1 finding blocks the handoff')
})

const bar = () => page.getByTestId('trial')
async function begin() {
  await page.getByRole('button', { name: 'Try in isolation…' }).click()
  await dialog().getByRole('button', { name: 'Begin the trial' }).click()
  await expect(bar()).toContainText('A trial of “Ebb tide”')
}
async function mendIt() {
  await page.getByRole('button', { name: 'Find its file…' }).click()
  await dialog().getByLabel('A folder and all below it').check()
  const picker = page.getByTestId('folder-picker')
  for (const each of [join(folder, '..'), 'trial', 'shelf'])
    await picker.getByRole('button', { name: each, exact: true }).click()
  await dialog().getByRole('button', { name: 'Search', exact: true }).click()
  await dialog()
    .getByRole('button', { name: /^Repoint 1/ })
    .click()
  await expect(heading()).not.toContainText('the handoff')
}

test('a trial finds what its cut finds, and its mends reach the production only when it is kept', async () => {
  await begin()
  await expect(heading()).toHaveText('1 finding blocks the handoff')
  await expect(bar()).toContainText('1 finding blocks the handoff, as there')
  await expect(bar().getByRole('button', { name: 'Keep it…' })).toBeDisabled()
  await mendIt()
  await expect(bar()).toContainText('0 findings block the handoff, 1 there')
  await page.goto(`${home}/mend`)
  await expect(heading()).toHaveText('1 finding blocks the handoff')
})

test('kept, it is one mend of the production, and the trial is gone', async () => {
  await page.getByRole('button', { name: 'Production: Neap' }).click()
  await page.getByRole('menuitem', { name: /^Trial of Ebb tide/ }).click()
  await bar().getByRole('button', { name: 'Keep it…' }).click()
  await expect(dialog()).toContainText('found again.mov')
  await dialog().getByRole('button', { name: 'Keep it in Neap' }).click()
  await expect(bar()).toHaveCount(0)
  await expect(page).toHaveURL(new RegExp(`${home}/mend`))
  await expect(heading()).not.toContainText('the handoff')
  await page.getByRole('tab', { name: /^Mends/ }).click()
  const mend = page.getByTestId('mend').filter({ hasText: 'Keep 1 original of the trial of “Ebb tide”' })
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(mend).toHaveAttribute('data-state', 'undone')
  await page.getByRole('tab', { name: /^Findings/ }).click()
  await expect(heading()).toHaveText('1 finding blocks the handoff')
})

test('thrown away, nothing of it is left', async () => {
  await begin()
  await mendIt()
  await bar().getByRole('button', { name: 'Throw it away…' }).click()
  await dialog().getByRole('button', { name: 'Throw it away' }).click()
  await expect(bar()).toHaveCount(0)
  await expect(heading()).toHaveText('1 finding blocks the handoff')
  await page.getByRole('button', { name: 'Production: Neap' }).click()
  await expect(page.getByRole('menuitem', { name: /^Trial of/ })).toHaveCount(0)
})
