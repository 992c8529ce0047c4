import { Button } from '@chakra-ui/react'
import type { Job, LedgerPage, LedgerPurpose, LedgerQuery } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { call } from '../../data/api.ts'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { timeLeft } from '../../parts/words.ts'
import { ReleaseDialog } from './release-dialog.tsx'
import { SuffixDialog } from './suffix-dialog.tsx'

/** What can be done to all lines that the ledger shows. */
export function LedgerActions({
  query,
  can,
  jobs,
}: {
  query: LedgerQuery
  can: LedgerPage['can']
  jobs: readonly Job[]
}): ReactElement {
  const params = { productionId: useProduction().id }
  const decode = useChange('decodePairs')
  const again = useChange('makePairsAgain')
  const compare = useChange('comparePictures')
  const [isNaming, setNaming] = useState(false)
  const [releasing, setReleasing] = useState<readonly string[] | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const running = (kind: Job['kind']) =>
    jobs.find((job) => job.kind === kind && (job.state === 'running' || job.state === 'waiting'))
  const [decoding, comparing] = [running('decode'), running('look')]
  /** The lines may be very many: their pairs are asked for when something is done to them. */
  const withPairs = (purpose: LedgerPurpose, then: (pairIds: string[]) => void) => (): void => {
    setProblem(null)
    call('listPairIds', { params, body: { ...query, purpose } }).then(
      ({ ids }) => ids.length > 0 && then(ids),
      (error: Error) => setProblem(error.message),
    )
  }
  const isPartly = can.decode > 0
  const errors = [problem, decode.error?.message, again.error?.message, compare.error?.message].filter(Boolean)
  return (
    <>
      {can['make again'] > 0 && (
        <Button
          size="sm"
          variant="outline"
          title="A newer one takes the place of each; what it replaces is set aside, and comes back when the mend is taken back."
          loading={again.isPending}
          onClick={withPairs('make again', (pairIds) => again.mutate({ params, body: { pairIds } }))}
        >
          Make {can['make again']} again
        </Button>
      )}
      <Button size="sm" variant="outline" onClick={() => setNaming(true)}>
        Suffixes…
      </Button>
      {can.release > 0 && (
        <Button size="sm" variant="outline" onClick={withPairs('release', setReleasing)}>
          Release {can.release}…
        </Button>
      )}
      {can.compare > 0 && (
        <Button
          size="sm"
          variant="outline"
          title="Each is compared with its original at five places, behind all other work."
          loading={compare.isPending || comparing !== undefined}
          loadingText="Comparing pictures"
          onClick={() => compare.mutate({ params })}
        >
          Compare the pictures of {can.compare}
        </Button>
      )}
      {can['decode again'] > 0 && (
        <Button
          size="sm"
          variant="outline"
          title="Proxies are proven by some of their pictures. This decodes all of them, behind all other work."
          loading={decode.isPending || decoding !== undefined}
          loadingText={decoding?.progress ? timeLeft(decoding.progress.secondsLeft) : 'Decoding'}
          onClick={withPairs(isPartly ? 'decode' : 'decode again', (pairIds) =>
            decode.mutate({ params, body: { pairIds } }),
          )}
        >
          {isPartly ? `Decode every frame of ${can.decode}` : `Decode all ${can['decode again']} again`}
        </Button>
      )}
      {errors.map((message) => (
        <Problem key={message} message={message as string} />
      ))}
      {isNaming && <SuffixDialog onClose={() => setNaming(false)} />}
      {releasing && <ReleaseDialog pairIds={releasing} onClose={() => setReleasing(null)} />}
    </>
  )
}
