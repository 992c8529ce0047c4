import { Box, Button, chakra, Flex, HStack, Input, Text } from '@chakra-ui/react'
import type { RepointPlanRow } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { FilePlace } from '../../parts/file-place.tsx'
import { CaptionedPicture } from '../../parts/frame-picture.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'
import type { SearchChoices } from './search-choices.ts'

/**
 * One wanted thing with its candidates, best first. A refused one is shown with its reason; what would not break the cut
 * may be taken all the same, with a person's own reason.
 */
export function RepointRow({
  row,
  jobId,
  chosen,
}: {
  row: RepointPlanRow
  /** The search that found the candidates. */
  jobId: string
  chosen: SearchChoices
}): ReactElement {
  const picked = chosen.pickedFor(row)
  const carried = chosen.carried?.wantedId === row.wantedId ? chosen.carried : null
  const onPick = (candidateId: string | null): void => chosen.pick(row.wantedId, candidateId)
  const isRefused = row.rated.some((candidate) => candidate.candidateId === picked && candidate.refusal !== null)
  return (
    <Box borderTopWidth="1px" borderColor="rule" py="2" data-testid="repoint-row" data-outcome={row.outcome}>
      <Flex gap="4" align="start">
        <Box width="7rem" flexShrink="0">
          <StateWord word={row.outcome} />
        </Box>
        <Box flex="1" minWidth="0">
          <Text>
            <b>{row.label}</b>
            {row.eventNumbers.length > 0 && (
              <Box as="span" color="quiet">
                {' '}
                for event {row.eventNumbers.join(', ')}
              </Box>
            )}
          </Text>
          <Text color="quiet" fontSize="0.9rem">
            {row.reason}
          </Text>
          {row.before && (
            <HStack gap="2" color="quiet" fontSize="0.85rem" align="start">
              now: <FilePlace path={row.before} isQuiet />
            </HStack>
          )}
          {row.rated.map((candidate) => (
            <CandidateLine
              key={candidate.candidateId}
              candidate={candidate}
              row={row}
              jobId={jobId}
              isPicked={picked === candidate.candidateId}
              isTaken={(chosen.takers.get(candidate.candidateId) ?? row.wantedId) !== row.wantedId}
              onPick={onPick}
            />
          ))}
          {carried && (
            <HStack mt="1" gap="3" role="status">
              <Text overflowWrap="anywhere">
                {count(carried.choices.length, 'other has', 'others have')} a file by the same relation: {carried.rule}
              </Text>
              <Button
                size="xs"
                variant="outline"
                flexShrink="0"
                onClick={() => chosen.pickAll(carried.choices.map(({ id, option }) => [id, option.id] as const))}
              >
                Take {carried.choices.length === 1 ? 'it' : 'them'} too
              </Button>
            </HStack>
          )}
          {isRefused && (
            <Input
              size="xs"
              mt="1"
              aria-label={`Why ${row.label} goes there all the same`}
              placeholder="Why it is taken all the same: kept with the mend"
              value={chosen.reasons.get(row.wantedId) ?? ''}
              onChange={(event) => chosen.giveReason(row.wantedId, event.target.value)}
            />
          )}
          {row.rated.length > 0 &&
            row.rated.some((candidate) => candidate.refusal === null || candidate.mayBeOpened) && (
              <chakra.label display="flex" gap="2" mt="1" color="quiet">
                <input type="radio" name={row.wantedId} checked={picked === null} onChange={() => onPick(null)} /> leave
                it as it is
              </chakra.label>
            )}
        </Box>
      </Flex>
    </Box>
  )
}

function CandidateLine(props: {
  candidate: RepointPlanRow['rated'][number]
  row: RepointPlanRow
  jobId: string
  isPicked: boolean
  isTaken: boolean
  onPick: (candidateId: string) => void
}): ReactElement {
  const { candidate } = props
  const [isOpen, setOpen] = useState(false)
  const differing = candidate.evidence.filter((line) => !line.agrees)
  const why =
    candidate.refusal ??
    (props.isTaken
      ? 'taken by another source'
      : differing.length
        ? `differs in ${differing.map((line) => line.aspect).join(', ')}`
        : 'nothing differs')
  return (
    <Box mt="1">
      <HStack gap="2" align="start">
        <Box pt="0.5">
          <input
            type="radio"
            name={props.row.wantedId}
            aria-label={candidate.path}
            checked={props.isPicked}
            disabled={(candidate.refusal !== null && !candidate.mayBeOpened) || props.isTaken}
            onChange={() => props.onPick(candidate.candidateId)}
          />
        </Box>
        <Box flex="1" minWidth="0">
          <FilePlace path={candidate.path} />
          <Text fontSize="0.88rem" color="quiet">
            {candidate.refusal ? 'Refused: ' : ''}
            {why}
          </Text>
        </Box>
        <Button size="2xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? 'Close' : 'Evidence'}
        </Button>
      </HStack>
      {isOpen && (
        <>
          <Pictures candidate={candidate} row={props.row} jobId={props.jobId} />
          <EvidenceList rows={candidate.evidence} expected="Wanted" found="This file" />
        </>
      )}
    </Box>
  )
}

/** What is wanted, as it was last seen, beside what was found, each with what it shows. */
function Pictures({
  candidate,
  row,
  jobId,
}: {
  candidate: RepointPlanRow['rated'][number]
  row: RepointPlanRow
  jobId: string
}): ReactElement | null {
  if (candidate.pictures.length === 0) return null
  const addressAt = (frame: number): string =>
    addressOf('candidatePicture', { jobId, index: String(candidate.index), frame: String(frame) })
  return (
    <Flex gap="2" my="2" wrap="wrap" data-testid="candidate-pictures">
      {row.clipId && (
        <CaptionedPicture source={addressOf('clipPicture', { clipId: row.clipId })} what="wanted, as last seen" />
      )}
      {candidate.pictures.map(({ frame, label, shows }) => (
        <CaptionedPicture key={frame} source={addressAt(frame)} what={`found, ${shows}: ${label}`} />
      ))}
    </Flex>
  )
}
