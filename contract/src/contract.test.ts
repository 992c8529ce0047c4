import { describe, expect, test } from '@jest/globals'
import {
  change,
  editRequest,
  errorBody,
  newCut,
  newProduction,
  newVolume,
  openApi,
  type Route,
  routes,
} from './index.ts'

const all = Object.entries(routes) as [string, Route][]

interface Operation {
  operationId: string
  summary: string
  parameters?: { name: string; in: string; required: boolean }[]
  requestBody?: { content: Record<string, { schema: { properties: Record<string, unknown> } }> }
  responses: Record<string, { content: Record<string, { schema?: unknown }> }>
}
const { paths } = openApi('1.2.3') as { paths: Record<string, Record<string, Operation>> }
const operations = Object.entries(paths).flatMap(([path, methods]) =>
  Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
)

describe('routes', () => {
  test('no two answer to the same method and path', () => {
    const seen = all.map(([, route]) => `${route.method} ${route.path.replace(/:\w+/g, ':')}`)
    expect(new Set(seen).size).toBe(seen.length)
  })

  test.each(all)('%s names its parameters in its path and nowhere else', (_, route) => {
    const named = [...route.path.matchAll(/:(\w+)/g)].map((match) => match[1])
    const shape = Object.keys((route.params as unknown as { shape: object }).shape)
    expect(shape.sort()).toEqual(named.sort())
  })

  test.each(all)('%s says in a sentence what it is', (_, route) => {
    expect(route.summary.length).toBeGreaterThan(5)
    expect(route.path.startsWith('/api/')).toBe(true)
  })
})

describe('the description', () => {
  test('has one operation for each route', () => {
    expect(operations).toHaveLength(all.length)
    expect(operations.map(({ operation }) => operation.operationId).sort()).toEqual(Object.keys(routes).sort())
  })

  test.each(operations)('$operation.operationId declares the parameters of its path', ({ path, operation }) => {
    const inPath = [...path.matchAll(/\{(\w+)\}/g)].map((match) => match[1])
    const declared = (operation.parameters ?? []).filter((parameter) => parameter.in === 'path')
    expect(declared.map((parameter) => parameter.name).sort()).toEqual(inPath.sort())
    expect(declared.every((parameter) => parameter.required)).toBe(true)
  })

  test('every operation tells its errors in the one shape', () => {
    for (const { operation } of operations) {
      const schema = operation.responses.default?.content['application/json']?.schema as {
        properties: object
        required: string[]
      }
      expect(Object.keys(schema.properties).sort()).toEqual(['code', 'details', 'message'])
      expect(schema.required).toEqual(['code', 'message'])
    }
  })

  test('a body is asked for where one is needed, with its fields', () => {
    const operation = operations.find((item) => item.operation.operationId === 'addVolume')?.operation
    expect(Object.keys(operation?.requestBody?.content['application/json']?.schema.properties ?? {})).toEqual([
      'label',
      'kind',
      'rootPath',
      'box',
    ])
    expect(
      operations.find((item) => item.operation.operationId === 'scanVolume')?.operation.requestBody,
    ).toBeUndefined()
  })

  test('pictures and streams are no JSON', () => {
    const types = (id: string) =>
      Object.keys(
        operations.find((item) => item.operation.operationId === id)?.operation.responses['200']?.content ?? {},
      )
    expect([types('clipPicture'), types('changes')]).toEqual([['image/jpeg'], ['text/event-stream']])
  })
})

describe('what may come in', () => {
  const rate = { numerator: 25, denominator: 1 }
  test.each([
    [newProduction, { name: '  ', rate, width: 1920, height: 1080 }, 'needs a name'],
    [newProduction, { name: 'x', rate: { numerator: 0, denominator: 1 }, width: 1920, height: 1080 }, ''],
    [newProduction, { name: 'x', rate, width: 1920.5, height: 1080 }, ''],
    [newVolume, { label: '', kind: 'card', rootPath: '/x' }, 'label that is on the box'],
    [newVolume, { label: 'x', kind: 'made', rootPath: '/x' }, ''],
    [newCut, { fileName: '', text: 'x' }, ''],
    [
      editRequest,
      { action: { kind: 'reel', clipIds: [], source: { kind: 'stem' } }, apply: true },
      'at least one clip',
    ],
    [editRequest, { action: { kind: 'reel', clipIds: ['no id'], source: { kind: 'stem' } }, apply: true }, ''],
    [editRequest, { action: { kind: 'set', clipIds: ['00000000-0000-4000-8000-000000000000'] }, apply: true }, ''],
    [change, { topic: 'weather', productionId: null }, ''],
  ])('%# is refused', (schema, value, message) => {
    const result = schema.safeParse(value)
    expect(result.success).toBe(false)
    expect(result.error?.issues.map((issue) => issue.message).join(' ')).toContain(message)
  })

  test('names and labels lose the blanks around them', () => {
    expect(newProduction.parse({ name: '  Low Water ', rate, width: 1920, height: 1080 }).name).toBe('Low Water')
    expect(newVolume.parse({ label: ' A001 ', kind: 'card', rootPath: '/x' }).label).toBe('A001')
  })

  test('an error may carry anything as details, and nothing', () => {
    expect(errorBody.parse({ code: 'x', message: 'y' })).toEqual({ code: 'x', message: 'y' })
    expect(errorBody.parse({ code: 'x', message: 'y', details: [1] }).details).toEqual([1])
  })
})
