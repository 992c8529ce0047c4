import type { HostRequest } from './parts-host.ts'

/** Asks the process in which the servers and workers of this runner's test files run. @throws what it could not do */
export async function askHost<Answer>(request: HostRequest): Promise<Answer> {
  const ports = (process.env.ENNICK_TEST_HOSTS as string).split(',')
  const port = ports[Number(process.env.JEST_WORKER_ID ?? 1) - 1]
  const response = await fetch(`http://127.0.0.1:${port}/`, { method: 'POST', body: JSON.stringify(request) })
  const answer = await response.json()
  if (!response.ok) throw new Error(answer)
  return answer
}

/** Where programs are found from now on, by the test itself and by the servers and workers that it runs. */
export async function findProgramsIn(path: string): Promise<void> {
  process.env.PATH = path
  await askHost({ kind: 'programs', path })
}
