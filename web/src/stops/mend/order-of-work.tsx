import { Button, Flex, Text } from '@chakra-ui/react'
import type { WorkStep } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement, ReactNode } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { OffloadLink } from '../../parts/offload-link.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'
import type { ChoiceForAll } from './choose-dialog.tsx'
import type { FindingActions } from './finding-card.tsx'

/** What a step is called in the address. */
export const stepId = ({ kind, volumeLabel }: WorkStep): string => (volumeLabel ? `${kind}: ${volumeLabel}` : kind)

/** The findings of a cut as a plan: step by step, with what is left to block the handoff after each. */
export function OrderOfWork({
  steps,
  chosen,
  onChoose,
  newest,
  redelivered,
  hasMoved,
  actions,
  isMaking,
}: {
  steps: readonly WorkStep[]
  chosen: string
  onChoose: (step: string | null) => void
  /** The newest version of each shot that has one that can stand in the cut. */
  newest: ChoiceForAll
  /** Clips whose content is another by now, which may have been delivered again. */
  redelivered: readonly string[]
  /** Whether a finding of the cut is of a file that was seen at another place. */
  hasMoved: boolean
  actions: FindingActions
  isMaking: boolean
}): ReactElement {
  const production = useProduction()
  const volumes = useRead('listVolumes', { params: { productionId: production.id } })
  // What a scan has found at another place needs no search; what other cuts miss is not offered in this one.
  const moved = hasMoved ? volumes.data?.find((volume) => volume.isHere && volume.moved > 0) : undefined
  const actionOf = (step: WorkStep): ReactNode => {
    switch (step.kind) {
      case 'search':
        return (
          <>
            {moved && (
              <Button size="2xs" asChild>
                <Link to={`/p/${production.id}/intake?moved=${moved.id}`}>
                  Repoint {formatNumber(moved.moved)} on {moved.label}…
                </Link>
              </Button>
            )}
            {redelivered.length > 0 && (
              <Button size="2xs" variant="outline" onClick={() => actions.onAccept(redelivered)}>
                Accept {formatNumber(redelivered.length)} delivered again…
              </Button>
            )}
            <Button size="2xs" variant={moved ? 'outline' : 'solid'} onClick={() => actions.onSearch(step.keys)}>
              Search for {formatNumber(step.keys.length)}…
            </Button>
          </>
        )
      case 'make again':
        return (
          <Button size="2xs" loading={isMaking} onClick={() => actions.onMakeAgain(step.pairIds)}>
            Make {count(step.pairIds.length, 'proxy', 'proxies')} again
          </Button>
        )
      case 'newer version':
        return (
          newest.choices.length > 0 && (
            <Button size="2xs" variant="outline" onClick={() => actions.onChooseForAll(newest)}>
              Take the newest of {formatNumber(newest.choices.length)}…
            </Button>
          )
        )
      case 'take apart':
        return (
          <Button size="2xs" onClick={() => actions.onTakeApart(step.keys)}>
            Take {count(step.keys.length, 'joined file')} apart…
          </Button>
        )
      case 'trim':
        return (
          <>
            {step.padKeys.length > 0 && (
              <Button size="2xs" variant="outline" onClick={() => actions.onPad(step.padKeys)}>
                Pad {formatNumber(step.padKeys.length)} with silence
              </Button>
            )}
            <Button size="2xs" onClick={() => actions.onTrim(step.keys)}>
              Trim {count(step.keys.length, 'use')}…
            </Button>
          </>
        )
      case 'rename':
        return (
          <Button size="2xs" variant="outline" onClick={() => actions.onRename(step.pairIds)}>
            Rename {count(step.pairIds.length, 'file')}
          </Button>
        )
      case 'from the card':
      case 'offload':
        return (
          <OffloadLink
            volumeLabel={step.volumeLabel}
            size="2xs"
            variant={step.kind === 'offload' ? 'outline' : 'solid'}
          />
        )
      default:
        return null
    }
  }
  return (
    <Section title="Order of work">
      {steps.map((step, index) => {
        const id = stepId(step)
        return (
          <Flex
            key={id}
            gap="4"
            align="baseline"
            py="0.5"
            borderTopWidth={index ? '1px' : '0'}
            borderColor="rule"
            data-testid="step"
            data-step={step.kind}
          >
            <Text width="1.5rem" color="quiet" textAlign="right" fontVariantNumeric="tabular-nums">
              {index + 1}
            </Text>
            <Text flex="1" minWidth="0">
              {sentence(step)}
            </Text>
            <Text color="quiet" fontSize="0.9rem" whiteSpace="nowrap">
              {step.blocking === 0
                ? 'does not block'
                : step.blockingAfter === 0
                  ? 'then nothing blocks'
                  : `then ${formatNumber(step.blockingAfter)} block`}
            </Text>
            <Flex gap="2" width="21rem" justify="end">
              {actionOf(step)}
              <Button
                size="2xs"
                variant={chosen === id ? 'subtle' : 'ghost'}
                aria-pressed={chosen === id}
                aria-label={`Show findings of step ${index + 1}`}
                onClick={() => onChoose(chosen === id ? null : id)}
              >
                {chosen === id ? 'Show all' : 'Show'}
              </Button>
            </Flex>
          </Flex>
        )
      })}
    </Section>
  )
}

function sentence({ kind, volumeLabel, keys }: WorkStep): string {
  const findings = count(keys.length, 'finding')
  const waiting = `${findings} ${keys.length === 1 ? 'waits' : 'wait'} for it`
  switch (kind) {
    case 'put in':
      return `Put in “${volumeLabel}”: ${waiting}`
    case 'see to':
      return `See to “${volumeLabel}”, which does not answer: ${waiting}`
    case 'take apart':
      return `Take ${count(keys.length, 'joined file')} apart, so that each use names what it shows`
    case 'choose':
      return `Choose the original for ${findings}`
    case 'newer version':
      return `Look at ${count(keys.length, 'shot')} of which a newer version is known`
    case 'from the card':
      return `Offload what ${findings} ${keys.length === 1 ? 'misses' : 'miss'} from “${volumeLabel}”`
    case 'search':
      return `Search for what ${findings} ${keys.length === 1 ? 'misses' : 'miss'}`
    case 'make again':
      return `Make again what is no twin of its original: ${findings}`
    case 'trim':
      return `Trim ${count(keys.length, 'use')} by what is not there`
    case 'rename':
      return 'Rename what is called otherwise than it would be made now'
    case 'offload':
      return `Offload “${volumeLabel}” before it leaves`
    case 'decide':
      return `Decide about ${findings} that no mend cures`
    case 'look at':
      return `Look at ${count(keys.length, 'remark')}`
  }
}
