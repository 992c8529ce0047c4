import { mkdir, open, rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { Ennick } from '../ennick.ts'
import { compare, type Result, run, say, secondsOf } from './measure.ts'

const fileBytes = 256 * 1024 * 1024
const files = 4

/** A card of large files against `cp` of the same, synced, followed by reading the copy once from the disk itself. */
export async function benchOffload(ennick: Ennick, folder: string): Promise<Result> {
  say(`Offloading ${files} files of ${fileBytes / 1e6} MB`)
  const card = join(folder, 'offload-card')
  const storage = join(folder, 'offload-storage')
  await mkdir(card)
  await mkdir(storage)
  for (let number = 1; number <= files; number++) await fill(join(card, `C${number}.bin`), number)
  const productionId = await ennick.newProduction()
  const add = async (label: string, kind: string, rootPath: string): Promise<string> =>
    (await ennick.call('POST', `/productions/${productionId}/volumes`, { label, kind, rootPath })).id
  const volumeId = await add('CARD', 'card', card)
  const destinationId = await add('STORAGE', 'drive', storage)
  let turn = 0
  const ours = async (): Promise<number> => {
    const name = `turn ${++turn}`
    const seconds = await secondsOf(async () =>
      ennick.jobEnd(
        (await ennick.call('POST', `/volumes/${volumeId}/offload`, { destinationId, folder: name, hash: 'xxh64' })).id,
      ),
    )
    await rm(join(storage, name), { recursive: true })
    return seconds
  }
  const bare = async (): Promise<number> => {
    const copy = join(folder, 'offload-bare')
    const seconds = await secondsOf(() =>
      run('sh', [
        '-c',
        `cp -r '${card}' '${copy}' && sync -d '${copy}'/* && for f in '${copy}'/*; do dd if="$f" of=/dev/null bs=1M iflag=direct status=none; done`,
      ]),
    )
    await rm(copy, { recursive: true })
    return seconds
  }
  return {
    id: 'offload',
    what: 'An offload with every copy read back, against cp, sync and reading the copy once past the cache',
    ratio: await compare(4, ours, bare),
    limit: 1.15,
  }
}

/** Bytes that no file system can make smaller. */
async function fill(path: string, seed: number): Promise<void> {
  const file = await open(path, 'wx')
  const block = Buffer.alloc(1024 * 1024)
  let state = seed * 2_654_435_761
  for (let at = 0; at < block.length; at += 4) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    block.writeUInt32LE(state, at)
  }
  for (let written = 0; written < fileBytes; written += block.length) {
    block.writeUInt32LE(written, 0)
    await file.write(block)
  }
  await file.close()
}
