import { mkdir, symlink, writeFile } from 'node:fs/promises'
import { request } from 'node:http'
import { join } from 'node:path'
import { routes } from '@ennick/contract'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, type Refusal, startHarness } from './testing/harness.ts'

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
  test.each(['evil.example', 'evil.example:80', '127.0.0.1.evil.example:PORT'])(
    'a request to host %s is refused',
    async (host) => {
      const answer = await ask('/api/health', { host: host.replace('PORT', port()) })
      expect([answer.status, answer.body.code]).toEqual([403, 'foreign-host'])
    },
  )
  test.each(['http://evil.example', 'null', 'http://127.0.0.1:1'])(
    'a request from origin %s is refused',
    async (origin) => {
      expect((await ask('/api/productions', { origin }, 'POST')).body.code).toBe('foreign-origin')
    },
  )
  test('its own page may ask', async () => {
    expect((await ask('/api/health', { origin: ennick.url })).status).toBe(200)
    expect((await ask('/api/health', { host: `localhost:${port()}` })).status).toBe(200)
  })
})

describe('the description', () => {
  test('covers every route, and every route answers errors in one shape', async () => {
    const description = (await ennick.call('describe')) as {
      paths: Record<string, Record<string, { operationId: string }>>
    }
    const described = Object.values(description.paths).flatMap((path) =>
      Object.values(path).map((operation) => operation.operationId),
    )
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
      (
        await fetch(`${ennick.url}/api/productions`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body,
        })
      ).json()
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
    // Whether it is there or not, the answer is the same.
    for (const path of [
      '/etc',
      '/etc/none',
      `${ennick.media}/in/../../..`,
      join(ennick.media, 'link'),
      join(ennick.media, 'link/none'),
      join(ennick.media, 'link/passwd'),
      `${ennick.media}x`,
      '/',
    ])
      expect(await refused(path)).toMatchObject({
        status: 403,
        message: expect.stringContaining('outside the folders'),
      })
    expect(await refused(join(ennick.media, 'none/below'))).toMatchObject({ status: 404 })
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
  const clip = {
    OTIO_SCHEMA: 'Clip.1',
    name,
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(0), duration: time(5) },
  }
  return JSON.stringify({
    OTIO_SCHEMA: 'Timeline.1',
    tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [clip] }] },
  })
}

describe('what no text, no number and no mark is', () => {
  const refusal = async (path: string, body: unknown, method = 'POST') => {
    const text = typeof body === 'string' ? body : JSON.stringify(body)
    const response = await fetch(`${ennick.url}/api${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      body: text,
    })
    return { status: response.status, ...(await response.json()) } as { status: number; code: string; message: string }
  }
  const production = (change: object) => ({
    name: 'X',
    rate: { numerator: 25, denominator: 1 },
    width: 640,
    height: 360,
    ...change,
  })
  const of = () => `/productions/${productionId}`
  const deep = (depth: number): string =>
    `{"condition":${'{"all":['.repeat(depth)}{"field":"name","operator":"filled"}${']}'.repeat(depth)}}`
  const cursor = (...values: unknown[]) => Buffer.from(JSON.stringify(values)).toString('base64url')

  test.each<[string, () => Promise<{ status: number; message: string }>, string]>([
    ['a zero character in a name', () => refusal('/productions', production({ name: 'a\0b' })), 'no text'],
    ['half a pair in a name', () => refusal('/productions', production({ name: 'a\ud800' })), 'no text'],
    [
      'a zero character in a key',
      () => refusal(`${of()}/logs/import`, { fileName: 'x', content: '', mapping: { 'a\0': null }, apply: false }),
      'no text',
    ],
    ['a zero character in a search', () => refusal(`${of()}/clips/search`, { words: 'a\0' }), 'no text'],
    [
      'a rate of 2³¹',
      () => refusal('/productions', production({ rate: { numerator: 2 ** 31, denominator: 1 } })),
      'up to a million',
    ],
    ['a condition 5,000 deep', () => refusal(`${of()}/clips/search`, deep(5000)), 'nested'],
    ['a condition 50 deep', () => refusal(`${of()}/clips/search`, deep(20)), 'deep'],
    ['a forged mark of a page', () => refusal(`${of()}/clips/search`, { after: cursor('a', 'no id') }), 'page mark'],
    [
      'a mark with a zero character',
      () => refusal(`${of()}/clips/search`, { after: cursor('a\0', productionId) }),
      'page mark',
    ],
    ['a mark that is no list', () => refusal(`${of()}/clips/search`, { after: 'x' }), 'page mark'],
    ['nothing but brackets', () => refusal(`${of()}/clips/search`, '['.repeat(1_000_000)), 'nested'],
    [
      'commas without end',
      () => refusal(`${of()}/clips/search`, `[${'0,'.repeat(2_000_000)}0]`),
      'more than 1000000 values',
    ],
  ])('%s is refused in words', async (_, ask, words) => {
    const { status, message } = await ask()
    expect([400, 413]).toContain(status)
    expect(message).toContain(words)
  })

  test('a number that no column holds is a number all the same', async () => {
    for (const value of [`1${'0'.repeat(26)}`, '99999999999', '-99999999999', '0.5'])
      for (const operator of ['is', 'less', 'more'])
        expect(
          (
            await ennick.call('searchClips', {
              params: { productionId },
              body: { condition: { field: 'width', operator, value } },
            })
          ).rows,
        ).toEqual([])
  })
})

describe('refusals of the guard', () => {
  test('carry the headers of every other answer', async () => {
    const headers = await new Promise<Record<string, unknown>>((resolve, reject) => {
      const call = request(`${ennick.url}/api/health`, { headers: { host: 'evil.example' } }, (response) => {
        response.resume()
        resolve(response.headers)
      })
      call.on('error', reject)
      call.end()
    })
    expect(headers['content-security-policy']).toContain("default-src 'self'")
    expect(headers['x-content-type-options']).toBe('nosniff')
  })
})

describe('nobody waits for one', () => {
  const edlLine = (at: number) => {
    const label = (frame: number) =>
      [Math.floor(frame / 90_000), Math.floor(frame / 1500) % 60, Math.floor(frame / 25) % 60, frame % 25]
        .map((part) => String(part).padStart(2, '0'))
        .join(':')
    return `${String(at % 1_000_000).padStart(6, '0')}  A001 V C ${label(at)} ${label(at + 1)} ${label(at)} ${label(at + 1)}`
  }
  /** The longest time that the server did not answer while something else was asked of it. */
  const asksMeanwhile = async (work: Promise<unknown>): Promise<number> => {
    let isOver = false
    let asked = 0
    const ended = work.finally(() => {
      isOver = true
    })
    while (!isOver) {
      await ennick.call('health')
      asked++
      // A breath between two questions, so that asking does not take the processor from the reading.
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    await ended
    return asked
  }

  test('a list of a million remarks is read, and others are answered meanwhile', async () => {
    const text = `TITLE: Remarks\n${edlLine(1)}\n${'* a\n'.repeat(1_000_000)}`
    const adding = ennick.call('addCut', { params: { productionId }, body: { fileName: 'remarks.edl', text } })
    expect(await asksMeanwhile(adding)).toBeGreaterThan(1)
    await ennick.call('removeCut', { params: { cutId: (await adding).id } })
  })
  test('a list of 32,000 events is read in one breath', async () => {
    const text = `TITLE: Events\n${Array.from({ length: 32_000 }, (_, at) => edlLine(at)).join('\n')}\n`
    const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'events.edl', text } })
    expect(cut.events).toBe(32_000)
    await ennick.call('removeCut', { params: { cutId: cut.id } })
  })
  test('a list of more events than any programme has is refused', async () => {
    const text = `TITLE: Events\n${Array.from({ length: 100_001 }, (_, at) => edlLine(at)).join('\n')}\n`
    await expect(
      ennick.call('addCut', { params: { productionId }, body: { fileName: 'events.edl', text } }),
    ).rejects.toMatchObject({
      code: 'bad-list',
      message: expect.stringContaining('100,000 are read at most'),
    })
  })
  test('an OTIO nested without end is refused, and the server lives', async () => {
    const text = `{"OTIO_SCHEMA":"Timeline.1","tracks":${'{"OTIO_SCHEMA":"Stack.1","children":['.repeat(200_000)}`
    await expect(
      ennick.call('addCut', { params: { productionId }, body: { fileName: 'deep.otio', text } }),
    ).rejects.toMatchObject({
      code: 'bad-list',
    })
    expect((await ennick.call('health')).status).toBe('ok')
  })
})

describe('lists with faults', () => {
  const read = (fileName: string, text: string) =>
    ennick.call('addCut', { params: { productionId }, body: { fileName, text } })
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
    await expect(read(fileName, text)).rejects.toMatchObject({
      code: 'bad-list',
      message: expect.stringContaining(reason),
    })
    expect(await ennick.call('listCuts', { params: { productionId } })).toEqual([])
    expect(await ennick.query('select 1 from events')).toEqual([])
  })
})

test('a disk that fills under the database is told as that, and not as a mistake of ours', async () => {
  await ennick.query(
    `create function fill() returns trigger language plpgsql as $$ begin raise exception 'could not extend file' using errcode = '53100'; end $$`,
  )
  await ennick.query('create trigger fill before insert on productions for each row execute function fill()')
  await expect(ennick.addProduction('Full')).rejects.toMatchObject({
    status: 507,
    code: 'disk',
    message: expect.stringContaining('is full'),
  })
  await ennick.query('drop trigger fill on productions')
})

test('a production of a taken name is refused', async () => {
  await expect(ennick.addProduction('Requests')).rejects.toMatchObject({ status: 409, code: 'name-taken' })
})

test('health knows that no worker is there', async () => {
  expect(await ennick.call('health')).toMatchObject({ status: 'ok', workers: 0 })
})
