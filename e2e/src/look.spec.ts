import { readFileSync } from 'node:fs'
import { expect, type Page, type Request, test } from '@playwright/test'
import { openWalk } from './walk.ts'

const walk = openWalk()
let page: Page
const frameNumber = () => page.getByTestId('frame-number')
const whichFile = () => page.getByTestId('which-file').first()
const ready = () => expect(page.locator('[data-testid=exact-frame][data-ready=true]')).toBeVisible()
const close = async () => {
  await page.getByRole('button', { name: 'Close the viewer' }).click()
  await expect(page.getByTestId('viewer')).toHaveCount(0)
}

test.beforeAll(() => {
  page = walk.page
})

test('what is shown of every clip is chosen in the header, and the viewer says which file it is', async () => {
  await walk.stop('Clips')
  await walk.filter('B001C001')
  await expect(page.getByRole('row')).toHaveCount(2)
  await expect(page.getByTestId('shown-switch')).toContainText('Viewing proxies first')
  await page.keyboard.press('Escape')
  await page.keyboard.press('j')
  await page.keyboard.press('v')
  await ready()
  await expect(whichFile()).toHaveText(/^Proxy · 960 × 540 · H\.264 · on Made by Ennick/)
  await expect(page.getByTestId('shown-reason')).toHaveText('the proxy is shown: it has a proxy')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('viewer')).toHaveCount(0)

  await page.keyboard.press('s')
  await page.getByRole('menuitemradio', { name: /^Originals/ }).click()
  await expect(page.getByTestId('shown-switch')).toContainText('Viewing originals')
  await expect(page.getByRole('menu')).toHaveCount(0)
  await page.keyboard.press('v')
  await ready()
  await expect(whichFile()).toHaveText(/^Original · 1920 × 1080 · H\.264 · on TIDE-1/)
  await page.getByLabel('What is shown of this clip').selectOption('apart: proxies alone')
  await expect(whichFile()).toHaveText(/^Proxy/)
  await page.getByLabel('What is shown of this clip').selectOption('as all the others')
  await expect(whichFile()).toHaveText(/^Original/)
})

test('frames are stepped with keys, to the frame, and points are set', async () => {
  await page.keyboard.press('Home')
  for (let step = 0; step < 3; step++) await page.keyboard.press('ArrowRight')
  await expect(frameNumber()).toHaveText(/^frame 3 of 150 frames/)
  await expect(page.getByTestId('timecode')).toHaveText('09:14:03:03')
  await ready()
  await page.keyboard.press('i')
  await expect(page.getByRole('button', { name: 'In 09:14:03:03' })).toBeVisible()
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('o')
  await expect(page.getByRole('button', { name: 'Out 09:14:04:03' })).toBeVisible()
  await page.keyboard.press('End')
  await expect(frameNumber()).toHaveText(/^frame 149 of 150/)
  await expect(page.getByRole('button', { name: '+1 frame' })).toBeDisabled()
})

test('while it plays, the frame that is told is the frame that is seen', async () => {
  await page.keyboard.press('Home')
  await ready()
  const clipId = new URL(page.url()).searchParams.get('look') ?? ''
  const view = await (await page.request.get(`/api/clips/${clipId}/view`)).json()
  const { fileId } = view.sides[0].parts[0]
  // Begun before it plays, so that however busy the machine is, the stretch is not over by then.
  const comparing = page.evaluate(async (file) => {
    const moving = async (): Promise<HTMLVideoElement> => {
      const video = document.querySelector<HTMLVideoElement>('[data-testid=moving]')
      if (video) return video
      await new Promise(requestAnimationFrame)
      return moving()
    }
    const video = await moving()
    const grey = (picture: CanvasImageSource): Uint8ClampedArray => {
      const canvas = Object.assign(document.createElement('canvas'), { width: 96, height: 54 })
      const context = canvas.getContext('2d') as CanvasRenderingContext2D
      context.drawImage(picture, 0, 0, 96, 54)
      return context.getImageData(0, 0, 96, 54).data
    }
    let levels = ''
    const seen: { frame: number; data: Uint8ClampedArray; isLate: boolean }[] = []
    await new Promise<void>((resolve) => {
      const next = (_now: number, { mediaTime }: VideoFrameCallbackMetadata): void => {
        // On a busy machine the browser may show a later one already by the time it tells of this one, and says so.
        const shown = new VideoFrame(video)
        const isLate = Math.abs(shown.timestamp / 1e6 - mediaTime) > 0.02
        seen.push({ frame: Math.round(mediaTime * 25), data: grey(shown), isLate })
        shown.close()
        if (seen.length < 12) video.requestVideoFrameCallback(next)
        else resolve()
      }
      video.requestVideoFrameCallback(next)
      const whileThere = (): void => {
        // Where the machine is slow, the sound is over or waits now and then: heard once is heard.
        const shown = document.querySelector('[data-testid=levels]')?.textContent ?? ''
        if (!levels.includes('dBFS')) levels = shown || levels
        if (video.isConnected) requestAnimationFrame(whileThere)
        else resolve()
      }
      whileThere()
    })
    const exact = async (frame: number): Promise<Uint8ClampedArray> => {
      const picture = new Image()
      picture.src = `/api/files/${file}/frames/${frame}?size=screen`
      await picture.decode()
      return grey(picture)
    }
    const apart = (a: Uint8ClampedArray, b: Uint8ClampedArray): number =>
      a.reduce((sum, value, index) => sum + Math.abs(value - (b[index] as number)), 0)
    const wrong: number[] = []
    const inTime = seen.filter(({ isLate }) => !isLate)
    for (const { frame, data } of inTime.filter((_, index) => index % 3 === 0)) {
      const near = await Promise.all([-1, 0, 1].map((by) => exact(Math.max(0, frame + by))))
      const distances = near.map((one) => apart(one, data))
      if (distances[1] !== Math.min(...distances)) wrong.push(frame)
    }
    return { seen: seen.length, levels, wrong }
  }, fileId)
  await page.keyboard.press('l')
  const { seen, levels, wrong } = await comparing
  expect(seen).toBeGreaterThan(0)
  expect(levels).toContain('dBFS')
  expect(wrong).toEqual([])
  await page.keyboard.press('k')
  await ready()
  // The wheel is turned back with J, frame by frame.
  const stopped = Number(/frame (\d+)/.exec((await frameNumber().textContent()) ?? '')?.[1])
  await page.keyboard.press('j')
  await expect
    .poll(async () => Number(/frame (\d+)/.exec((await frameNumber().textContent()) ?? '')?.[1]))
    .toBeLessThan(stopped)
  await page.keyboard.press('k')
})

test('the proxy is compared with its original: wipe, flip, difference, pixels', async () => {
  await page.keyboard.press('m')
  await page.keyboard.press('c')
  const compare = page.getByTestId('compare')
  await expect(compare).toHaveAttribute('data-mode', 'wipe')
  await expect(page.getByTestId('measured')).toHaveText(/^Pictures differ by \d\.\d of 255 on the mean/)
  await page.keyboard.press('f')
  await expect(page.getByTestId('which-file')).toHaveText(/^Original/)
  await page.keyboard.press('f')
  await expect(page.getByTestId('which-file')).toHaveText(/^Proxy/)
  await page.keyboard.press('d')
  await expect(page.getByTestId('which-file')).toHaveText('Original minus proxy, 8 times')
  await page.keyboard.press('z')
  await expect(page.getByRole('group', { name: 'Zoom' }).getByRole('button', { pressed: true })).toHaveText('2 ×')
  await expect(compare.locator('img').first()).toHaveAttribute('src', /size=full/)
  await expect(page.getByTestId('differences').first()).toContainText('facts agree')

  // What was moved while it was large is not left out of its place when it fits again.
  const box = (await compare.boundingBox()) as NonNullable<Awaited<ReturnType<typeof compare.boundingBox>>>
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.mouse.move(box.x + box.width / 4, box.y + box.height / 4, { steps: 4 })
  await page.mouse.up()
  await expect(compare.locator('img').first()).not.toHaveAttribute('style', /translate\(0%, 0%\)/)
  for (const zoom of ['4 ×', '8 ×', '16 ×', 'Fit']) {
    await page.keyboard.press('z')
    await expect(page.getByRole('group', { name: 'Zoom' }).getByRole('button', { pressed: true })).toHaveText(zoom)
  }
  await expect(compare.locator('img').first()).toHaveAttribute('style', /translate\(0%, 0%\) scale\(1\)/)
  await page.keyboard.press('c')
  await ready()
})

test('while a frame of another file is on its way, the one before does not stand under its name', async () => {
  await page.keyboard.press('ArrowRight')
  await ready()
  await expect(whichFile()).toHaveText(/^Original/)
  let release: () => void = () => undefined
  const held = new Promise<void>((resolve) => {
    release = resolve
  })
  const frames = /\/frames\/\d+\?size=screen/
  await page.route(frames, async (route) => {
    await held
    await route.continue()
  })
  await page.keyboard.press('2')
  await expect(whichFile()).toHaveText(/^Proxy/)
  await expect(page.getByText('reading the frame…')).toBeVisible()
  await expect(page.getByTestId('exact-frame')).toHaveCount(0)
  release()
  await ready()
  await page.unroute(frames)
})

test('a note keeps what it was seen on', async () => {
  await page.keyboard.press('2')
  await expect(whichFile()).toHaveText(/^Proxy/)
  await expect(page.getByTestId('proxy-reminder')).toBeVisible()
  await page.keyboard.press('n')
  await page.keyboard.type('the wheel is late')
  await page.keyboard.press('Enter')
  const note = page.getByTestId('view-note')
  await expect(note).toContainText('Judged on the proxy, 960 × 540, H.264: look at the original again')
  await note.getByRole('button', { name: 'Take back' }).click()
  await expect(note).toHaveCount(0)
  await close()
})

test('a cut is watched event by event, and what is not here is said', async () => {
  await walk.stop('Cuts')
  await page.getByRole('button', { name: 'Watch the cut' }).click()
  await expect(page.getByTestId('watch')).toContainText('Event 001 on V1, 1 of 8')
  await ready()
  await page.getByRole('button', { name: 'Play the cut from here' }).click()
  await expect(page.getByTestId('watch')).toContainText('Event 002 on V1, 2 of 8')
  await page.getByRole('button', { name: 'Stop the cut' }).click()
  await page.keyboard.press('.')
  await expect(page.getByTestId('watch')).toContainText('Event 003')
  await expect(page.getByTestId('stage')).toContainText('Nothing to show: the file of its original is gone.')
  await close()
  await walk.stop('Mend')
  await page.getByTestId('finding').getByRole('button', { name: 'Look' }).first().click()
  await expect(page.getByTestId('watch')).toContainText(/Event \d+ on/)
  await close()

  await page.keyboard.press('s')
  await page.getByRole('menuitemradio', { name: /^Proxies first/ }).click()
  await expect(page.getByTestId('shown-switch')).toContainText('Viewing proxies first')
})

test('scratch tracks find their recordings; one is moved by hand, heard in the viewer, and taken back', async () => {
  await walk.stop('Clips')
  await walk.filter('')
  await page.getByRole('button', { name: 'Sync sound…' }).click()
  const dialog = walk.dialog()
  await dialog.getByRole('tab', { name: 'By waveform' }).click()
  await dialog.getByRole('button', { name: 'Listen to all pictures' }).click()
  const synced = dialog.getByTestId('synced').filter({ hasText: 'B001C001' })
  await expect(synced).toContainText('LW_12A_T1')
  await expect(synced).toContainText('144000 samples at 48 kHz')
  await expect(synced).toContainText(/by waveform · \d+ % alike/)
  // A card whose clock was an hour ahead: two of its pictures were heard, the third has no sound to be found by.
  const clock = dialog.getByTestId('wrong-clock')
  await expect(clock).toContainText(/B003: .*01:00:00/)
  await expect(clock).toContainText('2 pictures say the same.')
  await expect(dialog.getByTestId('synced').filter({ hasText: 'B003C003' })).toHaveCount(0)
  await clock.getByLabel('Place the rest of it by its timecode, put right by that').check()
  await expect(dialog.getByTestId('synced').filter({ hasText: 'B003C003' })).toContainText('LW_12A_T2')
  await dialog.getByRole('button', { name: 'Move the sound of B001C001 by hand' }).click()
  await dialog.getByRole('button', { name: '1 sample later' }).click()
  await expect(synced).toContainText('144001 samples at 48 kHz')
  await dialog.getByLabel('4: MILLER').uncheck()
  await dialog.getByLabel('The camera’s own sound').selectOption('kept')
  await expect(dialog.getByText('It is heard together with “MIX”.')).toBeVisible()
  await dialog.getByLabel('The camera’s own sound').selectOption('muted')
  await dialog.getByRole('button', { name: /^Keep the sync of \d+ pictures$/ }).click()
  await expect(dialog).toHaveCount(0)

  await walk.filter('B001C001')
  await walk.cell('B001C001.mov', 'name').click()
  await expect(dialog.getByText('Uses MIX, BOOM, INES; the camera’s own sound is muted.')).toBeVisible()
  await dialog.getByRole('button', { name: 'Look at it' }).click()
  await ready()
  const recording = page.getByTestId('recording')
  await expect(recording).toContainText('Of LW_12A_T1, as it was synced')
  await expect(recording.getByLabel('MIX')).toBeChecked()
  await expect(recording.getByLabel('MILLER')).not.toBeChecked()
  const askedBy: string[] = []
  const keep = (request: Request): void => {
    if (request.url().includes('/play.mp4')) askedBy.push(request.resourceType())
  }
  page.on('request', keep)
  await page.keyboard.press('l')
  await expect(page.getByTestId('levels')).toContainText('dBFS')
  await expect
    .poll(async () => Number(/frame (\d+)/.exec((await frameNumber().textContent()) ?? '')?.[1]))
    .toBeGreaterThan(5)
  // Asked for by the player itself it would not play where browsers want ranges of everything that they play.
  expect(askedBy).toEqual(['fetch'])
  page.off('request', keep)
  await page.keyboard.press('k')
  await close()
  await page.keyboard.press('Escape')
  await expect(dialog).toHaveCount(0)
  await walk.row('B001C001.mov').getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Write a log of 1' }).click()
  const download = page.waitForEvent('download')
  await dialog.getByRole('button', { name: 'Write timeline XML' }).click()
  const list = readFileSync(await (await download).path(), 'utf8')
  expect(list).toContain('<name>LW_12A_T1.wav</name>')
  expect(list).toContain('<linkclipref>')
  await expect(dialog).toContainText('synced.xml, 1 synced clip')
  await page.keyboard.press('Escape')
  await walk.row('B001C001.mov').getByRole('checkbox').uncheck()
  await page.getByRole('button', { name: 'Undo' }).click()
  await walk.cell('B001C001.mov', 'name').click()
  await expect(dialog.getByRole('heading', { name: 'Files of this clip' })).toBeVisible()
  await expect(dialog.getByText('Its recording')).toHaveCount(0)
  await page.keyboard.press('Escape')
})

test('proxies of the clips that a cut uses are planned from the cut', async () => {
  await walk.stop('Cuts')
  const plan = page.getByRole('button', { name: /^Plan proxies of \d+ clips$/ })
  const clips = /\d+/.exec((await plan.textContent()) ?? '')?.[0]
  await plan.click()
  await expect(walk.heading()).toHaveText(`${clips} clips chosen`)
})
