import { resolve } from 'node:path'
import { sql } from 'drizzle-orm'
import { readDatabaseUrl } from '../launch/postgres.ts'
import { connect } from '../store/database.ts'
import { addProduction } from '../store/productions.ts'
import { volumes } from '../store/schema.ts'

/**
 * Fills the running Ennick with a production of many clips that have no files behind them, to see and to measure the
 * state of 50,000 rows: `node --import tsx server/src/testing/many-clips.ts 50000 "Long Reach"`. Prints the
 * production's id.
 */
const [count = '50000', name = 'Long Reach'] = process.argv.slice(2)
const dataFolder = resolve(process.env.ENNICK_DATA || '.ennick')
const connection = connect(process.env.DATABASE_URL ?? (await readDatabaseUrl(dataFolder)))
const { database } = connection

const production = await addProduction(database, dataFolder, {
  name,
  rate: { numerator: 25, denominator: 1 },
  width: 1920,
  height: 1080,
  isDemo: false,
  proxySuffixes: ['_proxy'],
})
const [volume] = await database
  .insert(volumes)
  .values({ productionId: production.id, label: 'REACH-1', kind: 'drive', rootPath: '/nowhere/reach', isHere: false })
  .returning()
const facts = {
  kind: 'picture',
  container: 'mov',
  picture: {
    ...{
      codec: 'prores',
      profile: 'Standard',
      width: 1920,
      height: 1080,
      pixelAspect: { numerator: 1, denominator: 1 },
      rotation: 0,
    },
    ...{
      pixelFormat: 'yuv422p10le',
      rate: { numerator: 25, denominator: 1 },
      variableRate: false,
      frames: 250,
      scan: 'progressive',
    },
    colour: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' },
  },
  sound: [],
  startFrame: 900_000,
  dropFrame: false,
  ...{ reel: null, timeReferenceSamples: null, createdAt: null, originator: null, description: null },
}
await database.transaction(async (transaction) => {
  await transaction.execute(sql`
    create temporary table many on commit drop as
    select n, gen_random_uuid() as file_id, gen_random_uuid() as clip_id, 'day ' || (n % 30 + 1) as day,
      chr(65 + n % 4) || lpad((n / 400)::text, 3, '0') as reel, 'C' || lpad(n::text, 6, '0') as name
    from generate_series(1, ${Number(count)}::int) n`)
  await transaction.execute(sql`
    insert into files (id, volume_id, path, size_bytes, mtime_micros, fingerprint, facts)
    select file_id, ${volume?.id}, day || '/' || reel || '/' || name || '.mov',
      20000000 + (n * 7919) % 90000000, 1700000000000000 + n, lpad(to_hex(n), 16, '0'),
      jsonb_set(${JSON.stringify(facts)}::jsonb, '{startFrame}', to_jsonb(((n::bigint * 4007) % 2000000)::int))
    from many`)
  await transaction.execute(sql`
    insert into clips (id, production_id, name, reel, reel_from, described)
    select clip_id, ${production.id}, name, reel, 'rule',
      jsonb_build_object('day', jsonb_build_object('value', day, 'from', 'rule'), 'scene', jsonb_build_object('value', (n % 120)::text || 'A', 'from', 'person'))
    from many`)
  await transaction.execute(sql`
    insert into clip_files (clip_id, ordinal, file_id, part) select clip_id, 0, file_id, 'whole' from many`)
  await transaction.execute(sql`insert into clip_staleness (production_id) values (${production.id})`)
})
await connection.close()
console.log(production.id)
