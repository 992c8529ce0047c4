import { rm } from 'node:fs/promises'
import { clusterElsewhere } from '../launch/postgres.ts'

/** After the server's tests: what was started before them ends. */
export default async function afterAll(): Promise<void> {
  for (const host of globalThis.ennickTestHosts ?? []) host.kill()
  await globalThis.ennickTestDatabase?.stop()
  const folder = globalThis.ennickTestFolder
  // Where root runs the tests, the cluster lies outside of the folder: one of each run would stay for ever.
  if (folder) for (const each of [folder, clusterElsewhere(folder)]) await rm(each, { recursive: true, force: true })
}
