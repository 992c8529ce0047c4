import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { type Connection, connect } from './database.ts'
import { readMaterial } from './material.ts'

/** With a file, a copy and a proxy each, more ids than a statement takes parameters. */
const count = 22_000
let ennick: Harness
let connection: Connection
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  connection = connect(ennick.config.databaseUrl)
  productionId = await ennick.addProduction('Many')
  await makePicture(join(ennick.media, 'drive/M.mov'), { frames: 5 })
  await ennick.addVolume(productionId, 'DRIVE', join(ennick.media, 'drive'))
  await ennick.query(
    `with numbers as (select n, gen_random_uuid() as clip, gen_random_uuid() as pair, gen_random_uuid() as file, gen_random_uuid() as copy, gen_random_uuid() as made from generate_series(1, $2::int) n),
     sample as (select * from files limit 1),
     new_files as (insert into files (id, volume_id, path, size_bytes, mtime_micros, fingerprint, facts)
       select ids.id, volume_id, 'many/' || ids.id, size_bytes, mtime_micros, fingerprint, facts from sample, (select file as id from numbers union all select copy from numbers union all select made from numbers) ids returning id),
     new_clips as (insert into clips (id, production_id, name) select clip, $1, 'M' || n from numbers returning id),
     new_links as (insert into clip_files (clip_id, ordinal, file_id, part) select clip, 0, file, 'whole' from numbers returning clip_id),
     new_copies as (insert into clip_copies (clip_id, file_id, is_verified) select clip, copy, true from numbers returning clip_id),
     new_pairs as (insert into pairs (id, clip_id, name, kind, origin, original_fingerprints, made_fingerprints) select pair, clip, 'p', 'proxy', 'adopted', '[]', '[]' from numbers returning id)
     insert into pair_files (pair_id, ordinal, file_id, part) select pair, 0, made, 'whole' from numbers`,
    [productionId, count],
  )
})
afterAll(async () => {
  await connection.close()
  await ennick.stop()
})

test('22,000 clips with a copy and a proxy are read by their ids at once', async () => {
  const all = await ennick.query<{ id: string }>('select id from clips')
  const clipIds = all.map(({ id }) => id)
  const material = await readMaterial(connection.database, productionId, clipIds)
  expect([material.clips.size, material.pairs.size, material.files.size]).toEqual([count + 1, count, 3 * count + 1])
})
