import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { openApi } from '@ennick/contract'
import express, { type Express, type NextFunction, type Request, type Response } from 'express'
import helmet from 'helmet'
import { EndedFromOutside } from './engine/process.ts'
import { explainFailure, isDatabaseAway, isDatabaseFull, isFileError, isUnkeepable, PlainError } from './errors.ts'
import { guard } from './http/guard.ts'
import { assertAllImplemented, implement, implementRaw } from './http/implement.ts'
import { assertReadable } from './http/json-limits.ts'
import type { Services } from './http/services.ts'
import type { LedgerKeeper } from './ledger/keep-copies.ts'
import { ledgerRoutes } from './ledger/routes.ts'
import { countWorkers } from './queue/lease.ts'
import { routesOfStops } from './stops.ts'

export const version = '0.1.0'

const webFolder = fileURLToPath(new URL('../../web/dist', import.meta.url))

/** Puts the whole API and the built interface on an Express application. */
export function buildApp(services: Services & { readonly ledger: LedgerKeeper }): Express {
  const { app } = services
  app.disable('x-powered-by')
  // First of all, so that refusals carry them too.
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'default-src': ["'self'"],
          'img-src': ["'self'", 'data:'],
          // What is rendered is given to a player as it arrives, under an address of the page's own.
          'media-src': ["'self'", 'blob:'],
          'style-src': ["'self'", "'unsafe-inline'"],
          'upgrade-insecure-requests': null,
        },
      },
      strictTransportSecurity: false,
    }),
  )
  app.use(guard(services.config.port, services.config.extraHosts))
  app.use(express.json({ limit: '40mb', verify: (_request, _response, bytes) => assertReadable(bytes) }))
  systemRoutes(services)
  for (const implementRoutes of routesOfStops) implementRoutes(services)
  ledgerRoutes(services, services.ledger)
  assertAllImplemented(app)
  app.use('/api', () => {
    throw new PlainError('not-found', 'The API has no such address: see /api/openapi.json.', { status: 404 })
  })
  serveInterface(app)
  app.use(answerError)
  return app
}

function systemRoutes({ app, pool, changes }: Services): void {
  const description = openApi(version)
  implement(app, 'health', async () => {
    try {
      return { status: 'ok' as const, version, workers: await countWorkers(pool) }
    } catch {
      return { status: 'no database' as const, version, workers: 0 }
    }
  })
  implement(app, 'describe', () => description)
  implementRaw(app, 'changes', (_call, response) => changes.attach(response))
}

function serveInterface(app: Express): void {
  if (!existsSync(join(webFolder, 'index.html'))) return
  app.use('/assets', express.static(join(webFolder, 'assets'), { immutable: true, maxAge: '1y' }))
  app.use(express.static(webFolder, { index: false }))
  app.get('/{*path}', (_request, response) => {
    response.set('cache-control', 'no-store')
    response.sendFile('index.html', { root: webFolder, dotfiles: 'allow' })
  })
}

/** Every error leaves in one shape, with a sentence for a person. */
function answerError(error: unknown, _request: Request, response: Response, _next: NextFunction): void {
  if (response.headersSent) {
    response.end()
    return
  }
  if (error instanceof PlainError) {
    response.status(error.status).json({
      code: error.code,
      message: error.message,
      ...(error.details === undefined ? {} : { details: error.details }),
    })
    return
  }
  const status = (error as { status?: number }).status
  if (status === 413) response.status(413).json({ code: 'too-large', message: 'The request is larger than 40 MB.' })
  else if (status === 400)
    response.status(400).json({ code: 'bad-request', message: 'The request is no JSON that can be read.' })
  else if (status === 404) response.status(404).json({ code: 'not-found', message: 'That file is no longer there.' })
  else if (isDatabaseAway(error))
    response.status(503).json({
      code: 'no-database',
      message: 'The database is away for a moment. Ennick goes on by itself when it is back.',
    })
  else if (isDatabaseFull(error) || isFileError(error))
    response.status(507).json({ code: 'disk', message: explainFailure(error) })
  else if (error instanceof EndedFromOutside)
    response.status(503).json({ code: 'encoder-ended', message: error.message })
  else if (isUnkeepable(error))
    response.status(400).json({
      code: 'bad-request',
      message: 'A value in the request cannot be kept: it is too large, or of another kind.',
    })
  else {
    console.error(error)
    response.status(500).json({
      code: 'fault',
      message: 'Ennick made a mistake here. What you did is not lost; the server’s log says more.',
    })
  }
}
