import { join } from 'node:path'
import { FolderLeft, isThereBelow, withFolder, withHeld } from '../disk/held-folder.ts'
import { whyNoRoom } from '../disk/room.ts'
import { StoreTrouble } from '../engine/download.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { assertTakesCopies } from './offload-routes.ts'
import { readStoreList, type StoreList, withoutLeave } from './store-list.ts'
import { readVolume } from './volume-routes.ts'

/** Paths of a list that a plan shows. */
const mostShown = 8

/** Fetching what a list in a store names. */
export function fetchRoutes({ app, database }: Services): void {
  implement(app, 'planFetch', async ({ params, body }) => {
    const destination = await readVolume(database, params.volumeId)
    assertTakesCopies(destination)
    return planFetch(await readList(body.address), destination, body.folder)
  })
  implement(app, 'fetchToVolume', async ({ params, body }) => {
    const destination = await readVolume(database, params.volumeId)
    assertTakesCopies(destination)
    const { blocked } = await planFetch(await readList(body.address), destination, body.folder)
    if (blocked) throw new PlainError('fetch-blocked', blocked, { status: 409 })
    const { productionId, label } = destination
    return presentJob(
      await addJob(database, productionId, `Fetch ${withoutLeave(body.address.trim())} to ${label}`, {
        ...{ kind: 'fetch', destinationId: destination.id, folder: body.folder, address: body.address },
      }),
    )
  })
}

const readList = (address: string): Promise<StoreList> =>
  readStoreList(address, new AbortController().signal).catch((error) => {
    throw error instanceof StoreTrouble ? new PlainError('list-not-read', error.message, { status: 409 }) : error
  })

async function planFetch(list: StoreList, destination: VolumeRow, folder: string) {
  const { files, name, passedOver } = list
  const isSized = files.every(({ sizeBytes }) => sizeBytes !== null)
  const target = join(destination.rootPath, folder)
  let [already, needed, freeBytes] = [0, 0, 0]
  let blocked = files.length === 0 ? `${name} names no file that is fetched.` : null
  try {
    await withHeld(destination.rootPath, async (root) => {
      freeBytes = await root.freeBytes()
      const count = async (to: typeof root | null): Promise<void> => {
        for (const { path, sizeBytes } of files)
          if (to && (await isThereBelow(to, path))) already++
          else needed += sizeBytes ?? 0
      }
      await withFolder(root, folder, count).catch((error) => {
        if (error.code === 'ENOENT') return count(null)
        throw error
      })
    })
  } catch (error) {
    if (!isFileError(error)) throw error
    blocked ??= error instanceof FolderLeft ? `“${destination.label}” is away.` : explainFileError(error, target)
  }
  if (!destination.isHere) blocked ??= `“${destination.label}” is away.`
  blocked ??= whyNoRoom('It', needed, freeBytes, `on “${destination.label}”`)
  return {
    ...{ name, target, freeBytes, already, blocked },
    files: files.length,
    bytes: isSized ? files.reduce((sum, { sizeBytes }) => sum + (sizeBytes ?? 0), 0) : null,
    passedOver: passedOver.slice(0, mostShown),
    paths: files.slice(0, mostShown).map(({ path }) => path),
  }
}
