import { mkdir, symlink, writeFile } from 'node:fs/promises'
import { request } from 'node:http'
import { join } from 'node:path'
import { routes } from '@ennick/contract'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, type Refusal, startHarness } from '../testing/harness.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  productionId = await ennick.addProduction('Requests')
})
afterAll(() => ennick.stop())

/** A request with headers that fetch would not let through. */
function ask(
  path: string,
  headers: Record<string, string>,
  method = 'GET',
): Promise<{ status: number; body: { code?: string; message?: string } }> {
  return new Promise((resolve, reject) => {
    const call = request(`${ennick.url}${path}`, { method, headers }, (response) => {
      let text = ''
      response.on('data', (chunk) => {
        text += chunk
      })
      response.on('end', () => resolve({ status: response.statusCode ?? 0, body: JSON.parse(text) }))
    })
    call.on('error', reject)
    call.end()
  })
}

describe('who may ask', () => {
  const port = () => new URL(ennick.url).port
  test.each(['evil.example', 'evil.example:80', '127.0.0.1', '127.0.0.1.evil.example:PORT'])(
    'a request to host %s is refused',
    async (host) => {
      const answer = await ask('/api/health', { host: host.replace('PORT', port()) })
      expect([answer.status, answer.body.code]).toEqual([403, 'foreign-host'])
    },
  )
  test.each(['http://evil.example', 'null', 'http://127.0.0.1:1'])('a request from origin %s is refused', async (origin) => {
    expect((await ask('/api/productions', { origin }, 'POST')).body.code).toBe('foreign-origin')
  })
  test('its own page may ask', async () => {
    expect((await ask('/api/health', { origin: ennick.url })).status).toBe(200)
    expect((await ask('/api/health', { host: `localhost:${port()}` })).status).toBe(200)
  })
})

describe('the description', () => {
  test('covers every route, and every route answers errors in one shape', async () => {
    const description = (await ennick.call('describe')) as { paths: Record<string, Record<string, { operationId: string }>> }
    const described = Object.values(description.paths).flatMap((path) => Object.values(path).map((operation) => operation.operationId))
    expect(described.sort()).toEqual(Object.keys(routes).sort())
  })
  test.each([
    ['/api/nowhere', 404, 'not-found'],
    ['/api/clips/not-an-id', 400, 'bad-request'],
    ['/api/clips/00000000-0000-4000-8000-000000000000', 404, 'not-found'],
    ['/api/productions/00000000-0000-4000-8000-000000000000/today', 404, 'not-found'],
  ])('%s', async (path, status, code) => {
    const answer = await ask(path, {})
    expect(answer.status).toBe(status)
    expect(answer.body).toMatchObject({ code, message: expect.any(String) })
  })
  test('a body that is no JSON, and one of another shape', async () => {
    const post = async (body: string) =>
      (await fetch(`${ennick.url}/api/productions`, { method: 'POST', headers: { 'content-type': 'application/json' }, body })).json()
    expect((await post('{')).code).toBe('bad-request')
    expect((await post('{"name":""}')).message).toContain('needs a name')
  })
})

describe('folders', () => {
  const refused = (path: string) =>
    ennick
      .call('addVolume', { params: { productionId }, body: { label: path, kind: 'card', rootPath: path } })
      .catch((error: Refusal) => error)

  test('outside the allowed roots is refused with the reason, also through a link and “..”', async () => {
    await mkdir(join(ennick.media, 'in'))
    await symlink('/etc', join(ennick.media, 'link'))
    for (const path of ['/etc', `${ennick.media}/in/../../..`, join(ennick.media, 'link'), `${ennick.media}x`, '/']) {
      const answer = (await refused(path)) as Refusal
      expect(answer.status === 403 || answer.status === 404).toBe(true)
      expect(answer.message).toMatch(/outside the folders|does not exist/)
    }
    expect(((await refused(join(ennick.media, 'link'))) as Refusal).message).toContain('leads to /etc')
  })

  test('what is no folder, or no full path', async () => {
    await writeFile(join(ennick.media, 'file.txt'), '')
    expect(((await refused(join(ennick.media, 'file.txt'))) as Refusal).message).toContain('not a folder')
    expect(((await refused('in')) as Refusal).message).toContain('not a full path')
  })

  test('the picker shows roots, folders and counts, and nothing hidden', async () => {
    await mkdir(join(ennick.media, 'shown/.hidden'), { recursive: true })
    await writeFile(join(ennick.media, 'shown/a.mov'), '')
    const listing = await ennick.call('browseFolder', { query: { path: join(ennick.media, 'shown') } })
    expect(listing).toMatchObject({ folders: [], mediaFiles: 1, otherFiles: 0, parent: ennick.media })
    expect((await ennick.call('browseFolder')).folders.map((folder) => folder.path)).toEqual([ennick.media])
  })

  test('two boxes of one label are asked about, and a folder counts once', async () => {
    await mkdir(join(ennick.media, 'v/below'), { recursive: true })
    const add = (label: string, rootPath: string) =>
      ennick.call('addVolume', { params: { productionId }, body: { label, kind: 'card', rootPath } })
    await add('V', join(ennick.media, 'v'))
    await expect(add('V', join(ennick.media, 'in'))).rejects.toMatchObject({ code: 'label-taken' })
    await expect(add('W', join(ennick.media, 'v'))).rejects.toMatchObject({ code: 'folder-taken' })
    await expect(add('W', join(ennick.media, 'v/below'))).rejects.toMatchObject({ code: 'folder-overlaps' })
  })
})

/** A list of one clip with a name that JSON can escape and no text can hold. */
const otioNamed = (name: string): string => {
  const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: 25 })
  const clip = { OTIO_SCHEMA: 'Clip.1', name, source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(0), duration: time(5) } }
  return JSON.stringify({
    OTIO_SCHEMA: 'Timeline.1',
    tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [clip] }] },
  })
}

describe('lists with faults', () => {
  const read = (fileName: string, text: string) => ennick.call('addCut', { params: { productionId }, body: { fileName, text } })
  test.each([
    ['x.edl', 'TITLE: X\n001  A V C 00:00:00:00', 'line 2'],
    [
      'x.edl',
      'TITLE: X\n001  A V C 01:00:00:00 01:00:01:00 10:00:00:00 10:00:01:00\n002  A V C 01:00:00:00 01:00:01:00 10:00:01:00 10:00:99:00\n',
      'line 3',
    ],
    [
      'x.otio',
      '{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[{"OTIO_SCHEMA":"Clip.1"}]}]}}',
      'tracks.children[0].children[0]',
    ],
    ['x.otio', otioNamed('a\0b'), 'no text'],
    ['x.otio', otioNamed('a\ud800b'), 'no text'],
    ['x.doc', 'Dear all', 'none of the formats'],
    ['x.edl', 'TITLE\0', 'no text'],
  ])('%s: refused with %s', async (fileName, text, reason) => {
    await expect(read(fileName, text)).rejects.toMatchObject({ code: 'bad-list', message: expect.stringContaining(reason) })
    expect(await ennick.call('listCuts', { params: { productionId } })).toEqual([])
    expect(await ennick.query('select 1 from events')).toEqual([])
  })
})

test('a production of a taken name is refused', async () => {
  await expect(ennick.addProduction('Requests')).rejects.toMatchObject({ status: 409, code: 'name-taken' })
})

test('health knows that no worker is there', async () => {
  expect(await ennick.call('health')).toMatchObject({ status: 'ok', workers: 0 })
})
