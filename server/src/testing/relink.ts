import { proposeAmong } from '../../../core/src/testing/propose-among.ts'
import { judgeRelink, relinkCorpus } from '../../../core/src/testing/relink-corpus.ts'

// Proposes originals for very many lost links, for the bench: how long it takes, and whether all of it is right.
const [files = 100_000, lost = 10_000] = process.argv.slice(2).map(Number)
const corpus = relinkCorpus(files, lost)
const began = process.hrtime.bigint()
const rows = proposeAmong(corpus.wanted, corpus.candidates, ['_proxy'])
const seconds = Number(process.hrtime.bigint() - began) / 1e9
const { wrong, missed } = judgeRelink(corpus, rows)
for (const line of [...wrong, ...missed].slice(0, 20)) console.error(line)
console.log(JSON.stringify({ seconds, wrong: wrong.length, missed: missed.length, bytes: process.memoryUsage().rss }))
