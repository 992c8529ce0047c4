import { z } from 'zod'
import { id } from './common.ts'
import { catalogueRoutes } from './routes/catalogue.ts'
import { clipsRoutes } from './routes/clips.ts'
import { cutsRoutes } from './routes/cuts.ts'
import { route } from './routes/define.ts'
import { handoffsRoutes } from './routes/handoffs.ts'
import { ledgerRoutes } from './routes/ledger.ts'
import { lutsRoutes } from './routes/luts.ts'
import { makeRoutes } from './routes/make.ts'
import { mendRoutes } from './routes/mend.ts'
import { pairsRoutes } from './routes/pairs.ts'
import { productionsRoutes } from './routes/productions.ts'
import { recipesRoutes } from './routes/recipes.ts'
import { standinsRoutes } from './routes/standins.ts'
import { syncRoutes } from './routes/sync.ts'
import { viewerRoutes } from './routes/viewer.ts'
import { volumesRoutes } from './routes/volumes.ts'

/** Every route of the API. */
export const routes = {
  health: route('GET', '/api/health', 'Whether the server, its database and a worker are there', {
    response: z.object({ status: z.enum(['ok', 'no database']), version: z.string(), workers: z.int() }),
  }),
  describe: route('GET', '/api/openapi.json', 'This description', { response: z.record(z.string(), z.unknown()) }),
  changes: route(
    'GET',
    '/api/changes',
    'Server-sent events: one for each change, naming its topic; “here” every 15 seconds',
    {
      mediaType: 'text/event-stream',
    },
  ),

  ...productionsRoutes,
  ...volumesRoutes,
  ...catalogueRoutes,
  ...clipsRoutes,
  ...syncRoutes,
  ...recipesRoutes,
  ...lutsRoutes,
  ...makeRoutes,
  ...pairsRoutes,
  ...cutsRoutes,
  ...viewerRoutes,
  ...mendRoutes,
  ...handoffsRoutes,
  ...ledgerRoutes,
  ...standinsRoutes,
} as const

export type RouteName = keyof typeof routes

/** What a change touches; the browser reads again what depends on it. */
export const changeTopic = z.enum([
  'productions',
  'recipes',
  'luts',
  'workers',
  'volumes',
  'clips',
  'catalogue',
  'jobs',
  'progress',
  'pairs',
  'cuts',
  'mends',
  'handoffs',
  'viewer',
  'bay',
  'ledger',
])
export const change = z.object({ topic: changeTopic, productionId: id.nullable() })
export type ChangeTopic = z.infer<typeof changeTopic>
export type Change = z.infer<typeof change>
