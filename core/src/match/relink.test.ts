import { expect, test } from '@jest/globals'
import { proposeAmong } from '../testing/propose-among.ts'
import { judgeRelink, relinkCorpus } from '../testing/relink-corpus.ts'

test.each([1, 2, 3])(
  'of %i catalogues of lost files every decidable one is right, and no other is decided, in any order',
  (seed) => {
    const corpus = relinkCorpus(6000, 280, seed)
    const rows = proposeAmong(corpus.wanted, corpus.candidates, ['_proxy'])
    expect(judgeRelink(corpus, rows)).toEqual({ wrong: [], missed: [] })
    const turned = proposeAmong([...corpus.wanted].reverse(), [...corpus.candidates].reverse(), ['_proxy'])
    expect(turned.reverse()).toEqual(rows)
  },
)
