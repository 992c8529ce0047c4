import { CardBay, readReadyCut, readyCuts, UploadingCamera } from '@ennick/standins'
import { demoFolder } from '../config.ts'
import { PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { watchOnce } from './presence.ts'

/** The stand-ins exist in the demo only: without one their lists are empty and nothing can be moved. */
export function standinRoutes({ app, config, database }: Services): void {
  const demo = demoFolder(config.dataFolder)
  const bay = new CardBay(demo)

  implement(app, 'listBay', () => bay.slots())
  implement(app, 'moveBaySlot', async ({ params, body }) => {
    const slots = await bay.slots()
    if (!slots.some((slot) => slot.name === params.slotName))
      throw new PlainError('no-slot', `The card bay has no “${params.slotName}”.`, { status: 404 })
    await bay.move(params.slotName, body.isIn)
    await watchOnce(database)
    await announce(database, null, 'bay')
    return bay.slots()
  })
  const camera = new UploadingCamera(demo)
  implement(app, 'readCamera', () => camera.state())
  implement(app, 'uploadFromCamera', async () => {
    await camera.uploadNext()
    await announce(database, null, 'bay')
    return camera.state()
  })
  implement(app, 'listReadyCuts', () => readyCuts(demo))
  implement(app, 'readReadyCut', async ({ params }) => {
    const cuts = await readyCuts(demo)
    if (!cuts.some((cut) => cut.fileName === params.fileName))
      throw new PlainError('no-cut', `The cutting room exported no ${params.fileName}.`, { status: 404 })
    return { fileName: params.fileName, text: await readReadyCut(demo, params.fileName) }
  })
}
