import { z } from 'zod'
import { errorBody } from './common.ts'
import type { Route } from './route.ts'
import { routes } from './routes.ts'

/** The OpenAPI 3.1 description of every route, made from the same schemas that check the requests. */
export function openApi(version: string): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {}
  for (const [name, route] of Object.entries(routes) as [string, Route][]) {
    const path = route.path.replace(/:(\w+)/g, '{$1}')
    paths[path] = { ...paths[path], [route.method.toLowerCase()]: operation(name, route) }
  }
  return { openapi: '3.1.0', info: { title: 'Ennick', version }, paths }
}

function operation(name: string, route: Route): Record<string, unknown> {
  const parameters = [...parametersOf(route.params, 'path'), ...parametersOf(route.query, 'query')]
  const takesBody = route.method !== 'GET' && Object.keys(propertiesOf(route.body)).length > 0
  return {
    operationId: name,
    summary: route.summary,
    ...(parameters.length ? { parameters } : {}),
    ...(takesBody
      ? { requestBody: { required: true, content: { 'application/json': { schema: jsonSchema(route.body) } } } }
      : {}),
    responses: {
      200: {
        description: route.summary,
        content: route.mediaType
          ? { [route.mediaType]: {} }
          : { 'application/json': { schema: jsonSchema(route.response) } },
      },
      default: { description: 'What went wrong', content: { 'application/json': { schema: jsonSchema(errorBody) } } },
    },
  }
}

const jsonSchema = (schema: z.ZodType): Record<string, unknown> => {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { unrepresentable: 'any' })
  return rest
}

const propertiesOf = (schema: z.ZodType): Record<string, unknown> =>
  (jsonSchema(schema).properties as Record<string, unknown> | undefined) ?? {}

function parametersOf(schema: z.ZodType, place: 'path' | 'query'): Record<string, unknown>[] {
  const required = (jsonSchema(schema).required as string[] | undefined) ?? []
  return Object.entries(propertiesOf(schema)).map(([name, inner]) => ({
    name,
    in: place,
    required: required.includes(name),
    schema: inner,
  }))
}
