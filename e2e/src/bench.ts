import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { benchAtOnce, benchBatch, benchJobs } from './bench/batch.ts'
import { benchPage } from './bench/catalogue.ts'
import { benchCuts } from './bench/cuts.ts'
import { benchLedger } from './bench/ledger.ts'
import { benchLog } from './bench/log.ts'
import { benchMake } from './bench/make.ts'
import { isJson, pause, type Result, say } from './bench/measure.ts'
import { benchFindings, benchMend } from './bench/mend.ts'
import { benchOffload } from './bench/offload.ts'
import { benchOnePass } from './bench/one-pass.ts'
import { benchRelink, benchRelinkGrowth } from './bench/relink.ts'
import { benchScan } from './bench/scan.ts'
import { benchSignature } from './bench/signature.ts'
import { benchSyncDay, benchSyncHour } from './bench/sync.ts'
import { benchFrame } from './bench/viewer.ts'
import { Ennick } from './ennick.ts'

const only = process.argv.includes('--only') ? (process.argv[process.argv.indexOf('--only') + 1] ?? null) : null

async function benchMemory(ennick: Ennick): Promise<Result> {
  say('Memory of the idle server')
  await pause(3000)
  return {
    id: 'memory',
    what: 'Resident memory of the idle server against 250 MB',
    ratio: (await ennick.memory('server')) / 250e6,
    limit: 1,
  }
}

const folder = await mkdtemp(join(tmpdir(), 'ennick-bench-'))
const ennick = await Ennick.start(folder)
const results: Result[] = []
try {
  const wants = (...ids: string[]): boolean => only === null || ids.includes(only)
  if (wants('memory')) results.push(await benchMemory(ennick))
  if (wants('make')) results.push(await benchMake(ennick, folder))
  if (wants('batch')) results.push(await benchBatch(ennick, folder))
  if (wants('at-once')) results.push(await benchAtOnce(folder))
  if (wants('jobs')) results.push(await benchJobs(ennick, folder))
  if (wants('one-pass', 'lut-order'))
    results.push(...(await benchOnePass(ennick, folder)).filter((result) => wants(result.id)))
  if (wants('offload')) results.push(await benchOffload(ennick, folder))
  if (wants('page', 'page-extra')) results.push(...(await benchPage(ennick)).filter((result) => wants(result.id)))
  if (wants('log')) results.push(await benchLog(folder))
  if (wants('relink', 'relink-wrong')) results.push(...(await benchRelink()).filter((result) => wants(result.id)))
  if (wants('relink-growth')) results.push(...(await benchRelinkGrowth()))
  if (wants('signature', 'signature-find'))
    results.push(...(await benchSignature(folder)).filter((result) => wants(result.id)))
  if (wants('ledger-page', 'cut-open', 'cut-open-changed', 'adopt'))
    results.push(...(await benchLedger(ennick)).filter((result) => wants(result.id)))
  if (wants('read-cut', 'diff-cut'))
    results.push(...(await benchCuts(ennick, folder)).filter((result) => wants(result.id)))
  if (wants('findings')) results.push(await benchFindings())
  if (wants('mend-batch', 'mend-others'))
    results.push(...(await benchMend(ennick, folder)).filter((result) => wants(result.id)))
  if (wants('frame', 'frame-cached'))
    results.push(...(await benchFrame(ennick, folder)).filter((result) => wants(result.id)))
  if (wants('sync-day', 'sync-day-timecode'))
    results.push(...(await benchSyncDay(ennick, folder)).filter((result) => wants(result.id)))
  if (wants('sync-hour')) results.push(await benchSyncHour(ennick, folder))
  if (wants('scan', 'rescan')) results.push(...(await benchScan(ennick, folder)).filter((result) => wants(result.id)))
} finally {
  await ennick.forget()
  await rm(folder, { recursive: true, force: true })
}
if (isJson)
  console.log(JSON.stringify(results.map(({ id, ratio, limit }) => ({ id, ratio: Number(ratio.toFixed(3)), limit }))))
else {
  console.log(`\n${'id'.padEnd(12)} ${'ratio'.padStart(7)} ${'limit'.padStart(6)}  what`)
  for (const { id, ratio, limit, what } of results)
    console.log(
      `${id.padEnd(12)} ${ratio.toFixed(3).padStart(7)} ${String(limit).padStart(6)}  ${what}${ratio > limit ? '  — over its limit' : ''}`,
    )
}
process.exitCode = results.every((result) => result.ratio <= result.limit) ? 0 : 1
