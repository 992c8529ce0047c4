import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, type Locator, type Page, test } from '@playwright/test'
import { run } from './bench/measure.ts'
import { makeClip } from './torment/stage.ts'
import { openWalk } from './walk.ts'

const folder = join(process.env.ENNICK_TEST_DATA as string, 'demo', 'pulls')
const walk = openWalk()
const { dialog, post } = walk
let page: Page

test.beforeAll(async () => {
  for (const seed of [1, 2]) await makeClip(join(folder, `box ${seed}`, `T00${seed}.mov`), seed, 50)
  await mkdir(join(folder, 'courier'))
  page = walk.page
  const { id } = await post('/productions', {
    ...{ name: 'Pulls', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
  })
  for (const seed of [1, 2]) {
    const volume = await post(`/productions/${id}/volumes`, {
      ...{ label: `BOX-${seed}`, kind: 'drive', rootPath: join(folder, `box ${seed}`) },
    })
    await post(`/volumes/${volume.id}/scan`, {})
  }
  await page.goto(`/p/${id}/intake`)
  for (const seed of [1, 2]) await expect(page.getByTestId(`volume-BOX-${seed}`).getByText(/^1 clip,/)).toBeVisible()
  const event = (seed: number): string =>
    `00${seed}  T${seed} V C 1${seed}:0${seed}:00:00 1${seed}:0${seed}:01:00 01:00:0${seed}:00 01:00:0${seed + 1}:00\n` +
    `* FROM CLIP NAME: T00${seed}.mov\n`
  const cut = await post(`/productions/${id}/cuts`, {
    ...{ fileName: 'mill.edl', text: `TITLE: Mill\n${event(1)}${event(2)}` },
  })
  await page.goto(`/p/${id}/handoff/${cut.id}`)
})

const pulled = (path: string) => join(folder, 'courier', 'Mill pull', path)

test('what a cut uses is copied, with what is away told, and comes when it is back', async () => {
  await rename(join(folder, 'box 2'), join(process.env.ENNICK_TEST_DATA as string, 'bag'))
  await page.getByRole('button', { name: 'Pull what it uses' }).click()
  await dialog().getByRole('button', { name: 'demo', exact: false }).first().click()
  await dialog().getByRole('button', { name: 'pulls' }).click()
  await dialog().getByRole('button', { name: 'courier' }).click()
  await expect(dialog().getByTestId('pull-plan')).toContainText('courier/Mill pull')
  await dialog()
    .getByRole('button', { name: /^Copy and verify/ })
    .click()
  const line = page.getByTestId('pull')
  await expect(line).toContainText('1 of 2 events covered by it.')
  await expect(line).toContainText('“BOX-2” is away: put it in.')
  expect(await readFile(pulled('BOX-1/T001.mov'))).toEqual(await readFile(join(folder, 'box 1/T001.mov')))

  await rename(join(process.env.ENNICK_TEST_DATA as string, 'bag'), join(folder, 'box 2'))
  await line.getByRole('button', { name: 'Pull again' }).click()
  await expect(page.getByTestId('pull')).toHaveCount(2)
  await expect(page.getByTestId('pull').first()).toContainText('Every event is covered by it.')
  await expect(page.getByTestId('since pulled')).toContainText('as pulled')
  await expect(page.getByRole('button', { name: 'Pull again' })).toHaveCount(0)
  expect(await readFile(pulled('BOX-2/T002.mov'))).toEqual(await readFile(join(folder, 'box 2/T002.mov')))
  const lists = (await readdir(join(folder, 'courier', 'Mill pull'))).filter((name) => name.startsWith('lists ')).sort()
  expect(await readFile(pulled(`${lists.at(-1)}/Mill, online.edl`), 'utf8')).toContain(pulled('BOX-2/T002.mov'))
})

test('no more than is used is copied when asked, under its own labels', async () => {
  await page.getByRole('button', { name: 'Pull what it uses' }).click()
  await dialog().getByLabel('Into a folder called').fill('Mill stretches')
  await dialog().getByLabel('How much of each').selectOption('used')
  await dialog().getByLabel('Handles, in frames').fill('2')
  await dialog().getByRole('button', { name: 'demo', exact: false }).first().click()
  const plan = dialog().getByTestId('pull-plan')
  await expect(plan).toContainText('demo/Mill stretches')
  const confirm = dialog().getByRole('button', { name: /^Copy and verify/ })
  await expect(confirm).toBeEnabled()
  expect(await confirmable(dialog().getByRole('button', { name: 'pulls' }))).toBe(false)
  await dialog().getByRole('button', { name: 'courier' }).click()
  await expect(plan).toContainText('courier/Mill stretches')
  await expect(plan).toContainText('2 stretches; whole files would be')
  await confirm.click()
  await expect(page.getByTestId('pull')).toHaveCount(3)
  await expect(page.getByTestId('pull').first()).toContainText('Every event is covered by it.')
  expect(await readdir(join(folder, 'courier', 'Mill stretches', 'BOX-1'))).toEqual(['T001_11010000.mov'])
})

/** Whether what was planned before can still be confirmed once something else is asked for. */
async function confirmable(button: Locator): Promise<boolean> {
  let goOn = (): void => {}
  const held = new Promise<void>((resolve) => (goOn = resolve))
  await page.route('**/plan', (route) => held.then(() => route.continue()))
  const answer = await button.evaluate(async (row: HTMLButtonElement) => {
    row.click()
    for (let frame = 0; frame < 3; frame++) await new Promise(requestAnimationFrame)
    const buttons = [...document.querySelectorAll<HTMLButtonElement>('[role=dialog] button')]
    return buttons.some(({ textContent, disabled }) => textContent?.startsWith('Copy and verify') && !disabled)
  })
  goOn()
  await page.unroute('**/plan')
  return answer
}

test('a finished file is held against the originals: an event as cut, and one that is black', async () => {
  const of = (seed: number, frames: string): string =>
    `[${seed - 1}:v]trim=end_frame=25,setpts=PTS-STARTPTS,eq=contrast=1.2${frames}[v${seed}]`
  const code = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-i', join(folder, 'box 1', 'T001.mov'), '-i', join(folder, 'box 2', 'T002.mov')],
    ...['-filter_complex', `${of(1, '')};${of(2, ',drawbox=t=fill:c=black')};[v1][v2]concat=n=2[v]`, '-map', '[v]'],
    ...['-r', '25', '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-timecode', '01:00:01:00'],
    join(folder, 'courier', 'mill, render 1.mov'),
  ])
  expect(code).toBe(0)
  await page.getByRole('button', { name: 'Check a finished file' }).click()
  await dialog().getByRole('button', { name: 'demo', exact: false }).first().click()
  await dialog().getByRole('button', { name: 'pulls' }).click()
  await dialog().getByRole('button', { name: 'courier' }).click()
  await dialog().getByRole('button', { name: 'mill, render 1.mov' }).click()
  await expect(dialog().getByTestId('finished-plan')).toContainText('2 of 2 events of picture can be held against')
  await expect(dialog().getByLabel('Its first frame is, in the record')).toHaveValue('01:00:01:00')
  await dialog().getByRole('button', { name: 'Check 2 events' }).click()
  const finished = page.getByTestId('finished')
  await expect(finished).toContainText('1 of 2 events is not as cut. 1 event as cut')
  await expect(finished).toContainText('50 frames decoded.')
  const row = finished.getByTestId('finished-row')
  await expect(row).toContainText('black01:00:02:00 V1 002 T002')
  // Both pictures are there: the finished one, and what the cut says.
  for (const what of ['The finished file at 01:00:02:00', 'What the cut says at 01:00:02:00'])
    await expect
      .poll(() => row.getByAltText(what).evaluate((image: HTMLImageElement) => image.naturalWidth))
      .toBeGreaterThan(0)
  await expect(finished.getByTestId('since checked')).toContainText('The cut says the same now.')
  // What lies there since is not what was checked.
  await writeFile(join(folder, 'courier', 'mill, render 1.mov'), 'exported again')
  await page.reload()
  await expect(finished).toContainText('Another file lies there now than was checked')
})

test('when the picture is done every original goes into an archive, with what it takes to begin again', async () => {
  await page.goto(page.url().replace(/handoff.*/, 'settings'))
  await page.getByRole('button', { name: 'Archive the originals' }).click()
  await dialog().getByRole('button', { name: 'demo', exact: false }).first().click()
  await dialog().getByRole('button', { name: 'pulls' }).click()
  await dialog().getByRole('button', { name: 'courier' }).click()
  await dialog().getByRole('button', { name: 'Copy and verify 2 files' }).click()
  await expect(page.getByTestId('pull')).toContainText('Every event is covered by it.')
  const archive = join(folder, 'courier', 'Pulls archive')
  const lists = (await readdir(archive)).find((name) => name.startsWith('lists ')) as string
  expect((await readdir(join(archive, lists))).sort()).toEqual([
    ...['cut 1, version 1, mill.edl', 'history.csv', 'ledger.csv', 'log.csv', 'production.json'],
    ...['recipes.json', 'what is in it.csv'],
  ])
})

test('it comes back as a production of its own, read back, with its cut on its originals', async () => {
  const before = page.url().replace(/settings.*/, 'handoff')
  await page.getByRole('button', { name: /^Production:/ }).click()
  await page.getByRole('menuitem', { name: 'New production…' }).click()
  await dialog().getByRole('tab', { name: 'From its archive' }).click()
  for (const name of ['demo', 'pulls', 'courier'])
    await dialog()
      .getByRole('button', { name, exact: name !== 'demo' })
      .first()
      .click()
  await expect(dialog()).toContainText('holds no archive')
  await dialog().getByRole('button', { name: 'Pulls archive' }).click()
  await expect(dialog()).toContainText('2 clips of 2 volumes, 1 list')
  await dialog().getByLabel('Name of the production').fill('Pulls, back')
  await dialog().getByRole('button', { name: 'Put it together again' }).click()
  await expect(page.getByRole('button', { name: 'Production: Pulls, back' })).toBeVisible()
  await expect(page.getByText('2 files are byte for byte what the archive’s manifests say.')).toBeVisible()
  await expect(page.getByText(/version 1: all 2 events on original/)).toBeVisible()
  await page.getByRole('link', { name: 'Make the proxies…' }).click()
  await expect(page).toHaveURL(/\/make/)
  await page.goto(before)
})

test('nothing is copied into a volume', async () => {
  await page.getByRole('button', { name: 'Pull what it uses' }).click()
  await dialog().getByRole('button', { name: 'demo', exact: false }).first().click()
  await dialog().getByRole('button', { name: 'pulls' }).click()
  await dialog().getByRole('button', { name: 'box 1' }).click()
  await expect(dialog().getByRole('alert')).toContainText('lies on volume “BOX-1”')
  await expect(dialog().getByRole('button', { name: /^Copy and verify/ })).toBeDisabled()
})
