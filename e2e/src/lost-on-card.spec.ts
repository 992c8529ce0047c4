import { copyFile, mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, type Page, test } from '@playwright/test'
import { makeClip, makeRecording } from './torment/stage.ts'
import { openWalk } from './walk.ts'

/**
 * What was lost in the bay comes back from its card, or from a renamed folder; its pixels are wide; a recipe leaves one
 * codec as it is; another tool’s copy is compared, and whether its card may be formatted is asked.
 */
const folder = join(process.env.ENNICK_TEST_DATA as string, 'demo', 'lost on card')
const [card, bay] = [join(folder, 'card'), join(folder, 'bay')]
const names = ['L001.mov', 'L002.mov']
const walk = openWalk()
const { dialog, heading, row, cell, volume, stop, filter, post } = walk
let page: Page

async function volumeOf(label: string): Promise<{ id: string }> {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) ?? []
  const answer = await page.request.get(`/api/productions/${productionId}/volumes`)
  return (await answer.json()).find((known: { label: string }) => known.label === label)
}

test.beforeAll(async () => {
  page = walk.page
  for (const seed of [1, 2, 3]) await makeClip(join(card, `L00${seed}.mov`), seed)
  await mkdir(bay)
  for (const name of names) await copyFile(join(card, name), join(bay, name))
  const { id } = await post('/productions', {
    ...{ name: 'Lost on card', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
  })
  for (const [label, kind, rootPath] of [
    ['BAY', 'drive', bay],
    ['L-CARD', 'card', card],
  ]) {
    const added = await post(`/productions/${id}/volumes`, { label, kind, rootPath })
    await post(`/volumes/${added.id}/scan`, {})
    await page.goto(`/p/${id}/intake`)
    await expect(volume(label as string).getByText(label === 'BAY' ? /^2 clips,/ : /^1 clip,/)).toBeVisible()
  }
  for (const name of names) await rm(join(bay, name))
  await post(`/productions/${id}/check`, {})
  const events = [1, 2].map((seed) => {
    const source = `1${seed}:0${seed}:00`
    const record = `01:00:0${seed}`
    const times = `${source}:02 ${source}:12 ${record}:00 ${record}:10`
    return `00${seed}  T${seed}  V  C  ${times}\n* FROM CLIP NAME: L00${seed}.mov\n`
  })
  await post(`/productions/${id}/cuts`, { fileName: 'lost.edl', text: `TITLE: Lost\n${events.join('')}` })
  await page.goto(`/p/${id}/mend`)
})

test('the order of work says which card has it, and leads to the offload that points at the copies', async () => {
  await expect(heading()).toHaveText('2 findings block the handoff')
  const step = page.getByTestId('step').filter({ hasText: 'Offload what 2 findings miss from “L-CARD”' })
  await expect(step).toContainText('then nothing blocks')
  await step.getByRole('link', { name: 'Offload L-CARD…' }).click()
  await expect(dialog().getByText('L001, L002: not at their places any more')).toBeVisible()
  await expect(dialog().getByLabel('Repoint 2 lost originals to the copies')).toBeChecked()
  const to = dialog().getByLabel('To', { exact: true })
  const storage = to.locator('option').filter({ hasText: 'BAY' })
  await to.selectOption({ label: (await storage.textContent()) as string })
  await dialog().getByLabel('into the folder').fill('day 1/L-CARD')
  await dialog()
    .getByRole('button', { name: /^Copy and verify \d/ })
    .click()
  await expect(volume('L-CARD')).toContainText('2 lost originals point at them')
  await stop('Mend')
  await expect(heading()).not.toContainText('block the handoff')
  expect(await readdir(join(bay, 'day 1/L-CARD'))).toEqual(expect.arrayContaining(names))
})

test('it is one mend: taken back, both are lost again and the copies stay', async () => {
  await page.getByRole('tab', { name: /^Mends/ }).click()
  const mend = page.getByTestId('mend').filter({ hasText: 'Repoint 2 originals to their copies in day 1/L-CARD' })
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(mend).toHaveAttribute('data-state', 'undone')
  await expect(heading()).toHaveText('2 findings block the handoff')
  expect(await readdir(join(bay, 'day 1/L-CARD'))).toEqual(expect.arrayContaining(names))
})

test('a folder that was renamed on the drive is pointed at in one step, and that is taken back', async () => {
  const scan = async (gone: RegExp) => {
    await stop('Intake')
    // What was known before the last step is shown first: a press while the page changes under it may miss.
    await expect(volume('BAY')).toContainText('here at another place')
    await volume('BAY').getByRole('button', { name: 'Scan again' }).click()
    await expect(volume('BAY')).toContainText(gone)
  }
  await rename(join(bay, 'day 1'), join(bay, 'D01'))
  await scan(/3 originals lie here at another place/)
  await page.getByRole('link', { name: /^Today/ }).click()
  await expect(heading()).toContainText('3 originals gone')
  await page.getByRole('link', { name: 'Point 3 originals at where they lie on BAY' }).click()
  await expect(dialog().getByRole('row').filter({ hasText: 'BAY/day 1' })).toContainText('BAY/D01')
  await expect(dialog()).toContainText('BAY/L001.mov → BAY/D01/L-CARD/L001.mov')
  await dialog().getByRole('button', { name: 'Repoint 3 originals' }).click()
  await expect(dialog()).toBeHidden()
  await expect(volume('BAY')).not.toContainText('at another place')
  await stop('Mend')
  await expect(heading()).not.toContainText('block the handoff')
  await page.getByRole('tab', { name: /^Mends/ }).click()
  const mend = page.getByTestId('mend').filter({ hasText: 'Repoint 3 originals on BAY' })
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(mend).toHaveAttribute('data-state', 'undone')
  await rename(join(bay, 'D01'), join(bay, 'day 1'))
  await scan(/2 originals lie here at another place/)
})

/** The plan of the one clip that was not lost, by a recipe. */
async function plan(recipe: string) {
  await stop('Clips')
  await filter('L003')
  await row('L003.mov').getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Plan proxies of 1' }).click()
  await page.getByRole('radio', { name: recipe, exact: true }).click()
  return row('L003')
}

test('pixels that a person says to be wide make the proxy wide', async () => {
  await expect(await plan('Half size, H.264 intra')).toContainText('320 × 180')
  await stop('Clips')
  await cell('L003.mov', 'name').click()
  await dialog().getByRole('button', { name: 'Compare shapes…' }).click()
  await dialog().getByRole('button', { name: '2:1 (2.0)' }).click()
  await expect(dialog().getByText('2:1 (2.0), set by hand')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(await plan('Half size, H.264 intra')).toContainText('640 × 180')
  await page.getByRole('button', { name: 'Make 1 proxy' }).click()
  await expect(page.getByTestId('job').filter({ hasText: 'Half size' })).toContainText('facts agree with the original')
  await stop('Pairs')
  await expect(row('L003')).toContainText('640 × 180')
  await expect(row('L003')).toContainText('proven')
})

test('a recipe leaves what is of a codec as it is, and says so', async () => {
  await plan('Half size, H.264 intra')
  await page.getByRole('button', { name: 'Copy and change…' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Half size, of what cuts badly')
  await page.getByLabel('Leave originals of these codecs as they are').fill('ProRes, MJPEG')
  await page.getByRole('button', { name: 'Keep the recipe' }).click()
  await expect(await plan('Half size, of what cuts badly')).toContainText(
    'L003.mov is MJPEG, which the recipe leaves as it is.',
  )
  await expect(page.getByRole('button', { name: /^Make/ })).toBeDisabled()
})

test('the place of made files is looked into: what is in use, what nobody knows, what is gone', async () => {
  await page.goto(page.url().replace(/\/p\/([^/]+)\/.*/, '/p/$1/settings'))
  const look = () => page.getByRole('button', { name: 'Look into it…' }).first().click()
  const line = (name: string) => dialog().getByTestId('made-file').filter({ hasText: name })
  const place = (await page.getByTestId('made-path').first().textContent()) ?? ''
  await look()
  await expect(line('L003_proxy')).toContainText('in use')
  await page.keyboard.press('Escape')
  const [file = ''] = (await readdir(place, { recursive: true })).filter((each) => each.includes('L003_proxy'))
  await rename(join(place, file), join(place, 'renamed by somebody.mov'))
  await look()
  // What was listed before is not shown again: the disk is looked at anew.
  await expect(line(file)).toBeVisible()
  expect(await line(file).textContent()).toContain('gone')
  await expect(line('renamed by somebody.mov')).toContainText('not in the ledger')
})

test('a recording that ends a part of a frame early is padded in a copy, and that is taken back', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) ?? []
  // Ten seconds and a part of a frame: what the cut asks for ends with that frame.
  const recorder = join(folder, 'recorder')
  await makeRecording(join(recorder, 'L-T1.wav'), 10 * 48_000 + 1500)
  const { id } = await post(`/productions/${productionId}/volumes`, {
    ...{ label: 'L-REC', kind: 'drive', rootPath: recorder },
  })
  await post(`/volumes/${id}/scan`, {})
  await page.goto(`/p/${productionId}/intake`)
  await expect(volume('L-REC').getByText(/^1 clip,/)).toBeVisible()
  const text =
    'TITLE: Wild sound\n001  AX  A  C  10:00:09:00 10:00:10:01 01:00:00:00 01:00:01:01\n* FROM CLIP NAME: L-T1.wav\n'
  const cut = await post(`/productions/${productionId}/cuts`, { fileName: 'wild.edl', text })
  await page.goto(`/p/${productionId}/mend/${cut.id}`)
  await expect(heading()).toHaveText('1 finding blocks the handoff')
  await page.getByRole('button', { name: 'Pad with 420 samples of silence' }).click()
  await expect(heading()).toHaveText('Nothing was found wrong with this cut')
  await page.getByRole('tab', { name: /^Mends/ }).click()
  const mend = page.getByTestId('mend').filter({ hasText: 'Pad L-T1 with 420 samples of silence' })
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(mend).toHaveAttribute('data-state', 'undone')
  await expect(heading()).toHaveText('1 finding blocks the handoff')
  expect(await readdir(recorder)).toEqual(['L-T1.wav'])
})

test('a copy that another tool made is compared whole, and then the card may go', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) ?? []
  const handCard = join(folder, 'hand card')
  await makeClip(join(handCard, 'H001.mov'), 9)
  await mkdir(join(bay, 'by hand'))
  await copyFile(join(handCard, 'H001.mov'), join(bay, 'by hand/H001.mov'))
  const { id } = await post(`/productions/${productionId}/volumes`, {
    ...{ label: 'H-CARD', kind: 'card', rootPath: handCard },
  })
  await post(`/volumes/${id}/scan`, {})
  await stop('Intake')
  await expect(volume('H-CARD')).toContainText('1 clip: offload before anybody works with them')
  await volume('BAY').getByRole('button', { name: 'Scan again' }).click()
  await expect(volume('BAY')).toContainText('1 clip has a copy here that nobody has compared')
  await volume('H-CARD').getByRole('button', { name: 'Compare 1 copy,' }).click()
  await expect(volume('H-CARD')).toContainText('The one copy is the same, byte for byte')
  await expect(volume('H-CARD')).not.toContainText('only on a card')
  await expect(volume('BAY')).not.toContainText('nobody has compared')
  const ask = () => volume('H-CARD').getByRole('button', { name: 'May it be formatted?' }).click()
  await ask()
  await expect(dialog()).toContainText('The one file that is on it now')
  await expect(dialog()).toContainText('BAY, clip by clip')
  await page.keyboard.press('Escape')
  await expect(dialog()).toBeHidden()
  // What comes onto it meanwhile is seen, whatever was answered before.
  await makeClip(join(handCard, 'H002.mov'), 10)
  await ask()
  await expect(dialog()).toContainText('Not yet: 1 of 2 files is nowhere else')
  await expect(dialog()).toContainText('H002.mov')
  await page.keyboard.press('Escape')
})

test('a plate that is delivered again under its name is accepted in Clips, and that is taken back', async () => {
  const plates = join(folder, 'plates')
  await makeClip(join(plates, 'SH010.mov'), 12)
  const production = page.url().replace(/^.*\/p\/([^/]*).*$/, '$1')
  const { id } = await post(`/productions/${production}/volumes`, { label: 'PLATES', kind: 'drive', rootPath: plates })
  await post(`/volumes/${id}/scan`, {})
  await stop('Intake')
  await expect(volume('PLATES').getByText(/^1 clip,/)).toBeVisible()
  await makeClip(join(plates, 'SH010.mov'), 13)
  await volume('PLATES').getByRole('button', { name: 'Scan again' }).click()
  await stop('Clips')
  await filter('SH010')
  await expect(row('SH010.mov')).toContainText('original changed')
  await row('SH010.mov').getByRole('checkbox').check()
  await page.getByRole('button', { name: 'More', exact: true }).click()
  await page.getByRole('menuitem', { name: /^Accept \d as delivered again…$/ }).click()
  await expect(dialog().getByRole('list', { name: 'Delivered again' })).toContainText('SH010.mov on PLATES')
  await expect(dialog().getByRole('button', { name: 'Accept 1 clip' })).toBeDisabled()
  await dialog().getByLabel('Who delivered it again, and why').fill('the tank has matched the grain')
  await dialog().getByRole('button', { name: 'Accept 1 clip' }).click()
  await expect(dialog()).toBeHidden()
  await expect(row('SH010.mov')).not.toContainText('original changed')
  await stop('Mend')
  await page.getByRole('tab', { name: /^Mends/ }).click()
  const mend = page.getByTestId('mend').filter({ hasText: 'Accepted as delivered again: SH010' })
  await expect(mend).toContainText('the tank has matched the grain')
  await mend.getByRole('button', { name: 'Take back' }).click()
  await stop('Clips')
  await expect(row('SH010.mov')).toContainText('original changed')
})

test('a plate that came in a newer version is told, taken for its use, and that is taken back', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) ?? []
  for (const version of [1, 2]) await makeClip(join(folder, 'plates', `SH020_v00${version}.mov`), 20, 20 + version)
  await post(`/volumes/${(await volumeOf('PLATES')).id}/scan`, {})
  await stop('Intake')
  await expect(volume('PLATES').getByText(/^3 clips,/)).toBeVisible()
  const text =
    'TITLE: Plates\n001  AX  V  C  10:20:00:02 10:20:00:12 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: SH020_v001.mov\n'
  const cut = await post(`/productions/${productionId}/cuts`, { fileName: 'plates.edl', text })
  await page.goto(`/p/${productionId}/handoff/${cut.id}`)
  const check = page.getByTestId('check-newest')
  await expect(check).toHaveAttribute('data-result', 'needs a look')
  // It is handed off all the same, and what is taken afterwards is told beside what was handed off.
  await page.getByRole('button', { name: 'Hand off 1 event on originals' }).click()
  const since = page.getByTestId('since handed off')
  await expect(since).toContainText('as handed off')
  await check.getByRole('link', { name: 'newer version' }).click()
  await expect(heading()).toHaveText('1 finding, none in the way of the handoff')
  await page.getByRole('button', { name: 'Take the newest of 1…' }).click()
  await expect(dialog()).toContainText('SH020_v002.mov')
  await expect(dialog()).toContainText('in place of SH020_v001.mov')
  await dialog().getByRole('button', { name: 'Use this one for 1 finding' }).click()
  await expect(heading()).toHaveText('Nothing was found wrong with this cut')
  await stop('Handoff')
  await expect(check).toHaveAttribute('data-result', 'passes')
  await expect(since).toContainText('The cut says another thing now of 1 event')
  await expect(since).toContainText('is on SH020_v002.mov now instead of SH020_v001.mov')
  await page.getByRole('navigation', { name: 'The line' }).getByRole('link', { name: 'Today' }).click()
  await page.getByRole('link', { name: '1 event changed since it was handed off' }).click()
  await expect(page).toHaveURL(new RegExp(`handoff/${cut.id}`))
  await stop('Mend')
  await page.getByRole('tab', { name: /^Mends/ }).click()
  const mend = page.getByTestId('mend').filter({ hasText: 'Repoint 1 event' })
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(heading()).toHaveText('1 finding, none in the way of the handoff')
  await stop('Handoff')
  await expect(since).toContainText('as handed off')
})

test('plates of a cut that were delivered again are accepted together', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) ?? []
  await makeClip(join(folder, 'plates', 'SH020_v001.mov'), 20, 24)
  await post(`/volumes/${(await volumeOf('PLATES')).id}/scan`, {})
  const uses = ['13:13:00:02 13:13:00:12 01:00:00:00 01:00:00:10', '10:20:00:02 10:20:00:12 01:00:00:10 01:00:00:20']
  const text = ['SH010.mov', 'SH020_v001.mov'].map(
    (name, index) => `00${index + 1}  AX  V  C  ${uses[index]}\n* FROM CLIP NAME: ${name}\n`,
  )
  const cut = await post(`/productions/${productionId}/cuts`, {
    fileName: 'again.edl',
    text: `TITLE: Again\n${text.join('')}`,
  })
  await page.goto(`/p/${productionId}/mend/${cut.id}`)
  // One of them names another reel than the file that came first.
  await expect(heading()).toHaveText('2 findings block the handoff, 2 more to look at')
  await expect(
    page.getByText(/It is of reel T12, as its file said when it came; what lies there now says T13/),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Accept 2 delivered again…' }).click()
  await expect(dialog().getByRole('list', { name: 'Delivered again' })).toContainText('SH020_v001.mov on PLATES')
  await dialog().getByLabel('Who delivered it again, and why').fill('both were graded anew')
  await dialog().getByRole('button', { name: 'Accept 2 clips' }).click()
  await expect(heading()).toHaveText('2 findings, none in the way of the handoff')
})

test('a press counts, though the page has learned of something new while the button is down', async () => {
  await stop('Intake')
  const { id } = await volumeOf('PLATES')
  const button = volume('PLATES').getByRole('button', { name: 'Scan again' })
  await button.hover()
  await page.mouse.down()
  // One row above becomes higher meanwhile, so that the button would no longer be where it was pressed.
  await writeFile(join(bay, 'A.rawx'), Buffer.alloc(64_000_000))
  await post(`/volumes/${(await volumeOf('BAY')).id}/scan`, {})
  await page.waitForResponse(
    async (answer) => answer.url().endsWith('/volumes') && (await answer.text()).includes('.rawx'),
  )
  const pressed = page.waitForRequest((request) => request.url().endsWith(`/volumes/${id}/scan`))
  await page.mouse.up()
  await pressed
  await expect(volume('BAY')).toContainText('1 .rawx file')
})

test('a clip of another production is found from here, with the box that it is in', async () => {
  await page.keyboard.press('Control+k')
  await page.getByPlaceholder('A clip, reel, volume, cut, or something to do').fill('A002C001')
  const found = dialog().getByRole('option').filter({ hasText: 'A002C001_1105.mov' })
  await expect(found).toContainText('Low Water · A002, away')
  await found.click()
  await expect(page.getByRole('dialog')).toContainText('A002C001_1105')
  await expect(page.getByText('Low Water', { exact: true })).toBeVisible()
})
