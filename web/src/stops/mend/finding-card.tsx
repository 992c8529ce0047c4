import { Box, Button, Flex, HStack, Text } from '@chakra-ui/react'
import type { FindingRow } from '@ennick/contract'
import { carryOver, formatNumber, type OpenChoice } from '@ennick/core'
import { memo, type ReactElement, useMemo, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { useChange, useRead } from '../../data/queries.ts'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { FilePlace } from '../../parts/file-place.tsx'
import { Lapsed, LeaveOpen, WithdrawDecision } from '../../parts/leave-open.tsx'
import { Problem } from '../../parts/notices.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count, when } from '../../parts/words.ts'
import type { ChoiceForAll } from './choose-dialog.tsx'

/** What a person can start from findings. */
export interface FindingActions {
  onSearch(keys: readonly string[]): void
  onTrim(keys: readonly string[]): void
  onTakeApart(keys: readonly string[]): void
  /** Shows what was delivered again of some clips, to be accepted with a reason. */
  onAccept(clipIds: readonly string[]): void
  onMakeAgain(pairIds: readonly string[]): void
  onReplace(finding: FindingRow): void
  onRestamp(pairIds: readonly string[]): void
  onRename(pairIds: readonly string[]): void
  onPad(keys: readonly string[]): void
  /** Shows what one choice says for several findings, before any is chosen. */
  onChooseForAll(choice: ChoiceForAll): void
  /** Shows its first event in the viewer, or its clip where it is about no event. */
  onLook(finding: FindingRow): void
}

/** One finding: its weight, its sentence, its mends; the evidence folds out. Drawn again only when it has changed. */
export const FindingCard = memo(function FindingCard(props: {
  cutId: string
  finding: FindingRow
  actions: FindingActions
  /** All findings for which a person has to choose an original. */
  toChoose: readonly FindingRow[]
  isWaiting: boolean
}): ReactElement {
  const { finding, actions } = props
  const [isOpen, setOpen] = useState(false)
  return (
    <Box borderTopWidth="1px" borderColor="rule" py="3" data-testid="finding" data-kind={finding.kind}>
      <Flex gap="5" align="start">
        <Box width="9.5rem" flexShrink="0">
          <Text fontWeight="semibold">{finding.kind}</Text>
          <Box fontSize="0.88rem">
            <StateWord word={finding.decision ? 'decided' : finding.severity} />
          </Box>
          {finding.since && (
            <Text color="quiet" fontSize="0.85rem">
              since {when(finding.since)}
            </Text>
          )}
        </Box>
        <Box flex="1" minWidth="0">
          <Text overflowWrap="anywhere">{finding.message}</Text>
          {finding.decision && (
            <HStack color="quiet" gap="3">
              <Text>Left open by decision: {finding.decision.reason}</Text>
              <WithdrawDecision cutId={props.cutId} finding={finding} />
            </HStack>
          )}
          <Lapsed finding={finding} />
        </Box>
        <HStack flexShrink="0" gap="2">
          {finding.clipId !== null && (
            <Button size="xs" variant="ghost" onClick={() => actions.onLook(finding)}>
              Look
            </Button>
          )}
          <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Close' : finding.rivals.length ? 'Choose…' : 'Evidence'}
          </Button>
          {finding.mends.includes('repoint') && (
            <Button size="xs" variant="outline" onClick={() => actions.onSearch([finding.key])}>
              Find its file…
            </Button>
          )}
          {finding.clipId !== null && finding.mends.includes('accept redelivery') && (
            <Button size="xs" variant="outline" onClick={() => actions.onAccept([finding.clipId as string])}>
              Accept it…
            </Button>
          )}
          {finding.mends.includes('take apart') && (
            <Button size="xs" variant="outline" onClick={() => actions.onTakeApart([finding.key])}>
              Take apart…
            </Button>
          )}
          {finding.mends.includes('trim') && (
            <Button size="xs" variant="outline" onClick={() => actions.onTrim([finding.key])}>
              Trim {finding.trim}…
            </Button>
          )}
          {finding.mends.includes('pad') && (
            <Button size="xs" variant="outline" loading={props.isWaiting} onClick={() => actions.onPad([finding.key])}>
              Pad with {count(finding.padSamples ?? 0, 'sample')} of silence
            </Button>
          )}
          {finding.mends.includes('restamp') && (
            <Button
              size="xs"
              variant="outline"
              loading={props.isWaiting}
              loadingText="Mending it"
              onClick={() => actions.onRestamp(finding.pairIds)}
            >
              Restamp a copy
            </Button>
          )}
          {finding.mends.includes('rename') && (
            <Button size="xs" variant="outline" onClick={() => actions.onRename(finding.pairIds)}>
              {finding.pairIds.length > 1 ? `Rename ${formatNumber(finding.pairIds.length)} files` : 'Rename it'}
            </Button>
          )}
          {finding.mends.includes('make again') && (
            <Button
              size="xs"
              variant="outline"
              loading={props.isWaiting}
              loadingText="Making it again"
              onClick={() => actions.onMakeAgain(finding.pairIds)}
            >
              {finding.pairIds.length > 1
                ? `Make ${formatNumber(finding.pairIds.length)} proxies again`
                : 'Make the proxy again'}
            </Button>
          )}
        </HStack>
      </Flex>
      {isOpen && (
        <Box ml={{ base: '0', md: '10.75rem' }} mt="3">
          {finding.clipId && <ClipSpan clipId={finding.clipId} />}
          <EvidenceList rows={finding.evidence} />
          {finding.rivals.length > 0 && <Rivals {...props} />}
          {finding.mends.includes('replace from the start') && (
            <Button mt="3" size="xs" variant="outline" onClick={() => actions.onReplace(finding)}>
              Replace from the start…
            </Button>
          )}
          {(finding.severity === 'blocks handoff' || isVersion(finding.kind)) && !finding.decision && (
            <Box mt="3">
              <LeaveOpen cutId={props.cutId} finding={finding} />
            </Box>
          )}
        </Box>
      )}
    </Box>
  )
})

function ClipSpan({ clipId }: { clipId: string }): ReactElement | null {
  const detail = useRead('readClip', { params: { clipId } })
  return detail.data?.strip ? (
    <Box mb="3">
      <LargeStrip strip={detail.data.strip} />
    </Box>
  ) : null
}

const openChoice = ({ key, known, rivals }: FindingRow): OpenChoice => ({
  ...{ id: key, known },
  options: rivals.map(({ clipId, path }) => ({ id: clipId, path })),
})

const isVersion = (kind: string): boolean => kind === 'newer version'

/** What the choice of a rival says for other findings; null when it says nothing. */
function choiceForAll(finding: FindingRow, clipId: string, toChoose: readonly FindingRow[]): ChoiceForAll | null {
  // Who chooses among originals that fit alike says nothing of versions, and the other way about.
  const others = toChoose.filter(({ key, kind }) => key !== finding.key && isVersion(kind) === isVersion(finding.kind))
  const carried = carryOver(openChoice(finding), clipId, others.map(openChoice), true)
  if (!carried) return null
  const byKey = new Map(others.map((each) => [each.key, each]))
  const own = finding.rivals.find((rival) => rival.clipId === clipId)
  return {
    rule: carried.rule,
    choices: [
      { finding, clipId, path: own?.path ?? '' },
      ...carried.choices.flatMap(({ id, option }) => {
        const other = byKey.get(id)
        return other ? [{ finding: other, clipId: option.id, path: option.path }] : []
      }),
    ],
  }
}

/** Originals that fit equally well, or newer versions, for a person to choose from. */
function Rivals({
  cutId,
  finding,
  toChoose,
  actions,
}: {
  cutId: string
  finding: FindingRow
  toChoose: readonly FindingRow[]
  actions: FindingActions
}): ReactElement {
  const choose = useChange('chooseClips')
  const forAll = useMemo(
    () => new Map(finding.rivals.map(({ clipId }) => [clipId, choiceForAll(finding, clipId, toChoose)])),
    [finding, toChoose],
  )
  return (
    <Box mt="3">
      {finding.clipId && (
        <Flex align="center" gap="3" py="1">
          <Text width="5.7rem">As it is</Text>
          <ClipPicture clipId={finding.clipId} name={finding.clipName ?? ''} />
          <Text overflowWrap="anywhere">{finding.clipName}</Text>
        </Flex>
      )}
      {finding.rivals.map((rival) => (
        <Flex key={rival.clipId} align="center" gap="3" py="1">
          <Button
            size="xs"
            loading={choose.isPending}
            onClick={() =>
              choose.mutate({
                params: { cutId },
                body: { choices: [{ positions: finding.events, clipId: rival.clipId }] },
              })
            }
          >
            Use this one
          </Button>
          <ClipPicture clipId={rival.clipId} name={rival.path} />
          <Box minWidth="0">
            <FilePlace path={rival.path} />
            {rival.against && (
              <HStack gap="2" align="center" fontSize="0.9rem">
                <StateWord word="needs a look" />
                <Text as="span">{rival.against}</Text>
              </HStack>
            )}
          </Box>
          <ForAll choice={forAll.get(rival.clipId) ?? null} onOpen={actions.onChooseForAll} />
        </Flex>
      ))}
      {choose.error && <Problem message={choose.error.message} />}
    </Box>
  )
}

const ClipPicture = ({ clipId, name }: { clipId: string; name: string }): ReactElement => (
  <img
    src={addressOf('clipPicture', { clipId })}
    alt={`What ${name} shows`}
    loading="lazy"
    onError={(event) => {
      // Sound has no picture.
      event.currentTarget.hidden = true
    }}
    style={{ width: '6.5rem', aspectRatio: '16/9', objectFit: 'contain' }}
  />
)

/** Offers a choice for the others to which it carries over. */
function ForAll({
  choice,
  onOpen,
}: {
  choice: ChoiceForAll | null
  onOpen: (choice: ChoiceForAll) => void
}): ReactElement | null {
  if (!choice) return null
  return (
    <Button size="xs" variant="outline" flexShrink="0" title={choice.rule} onClick={() => onOpen(choice)}>
      …and alike for {count(choice.choices.length - 1, 'other')}
    </Button>
  )
}
