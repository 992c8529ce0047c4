import { Box, Button, Flex, HStack, Text } from '@chakra-ui/react'
import type { FindingRow } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { Problem } from '../../parts/notices.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'

/** One finding: its weight, its sentence, its mends; the evidence folds out. */
export function FindingCard(props: {
  cutId: string
  finding: FindingRow
  onSearch: () => void
  onMakeAgain: () => void
  isWaiting: boolean
}): ReactElement {
  const { finding } = props
  const [isOpen, setOpen] = useState(false)
  return (
    <Box borderTopWidth="1px" borderColor="rule" py="3" data-testid="finding" data-kind={finding.kind}>
      <Flex gap="5" align="start">
        <Box width="9.5rem" flexShrink="0">
          <Text fontWeight="semibold">{finding.kind}</Text>
          <Box fontSize="0.88rem">
            <StateWord word={finding.decision ? 'decided' : finding.severity} />
          </Box>
        </Box>
        <Box flex="1" minWidth="0">
          <Text overflowWrap="anywhere">{finding.message}</Text>
          {finding.decision && <Text color="quiet">Left open by decision: {finding.decision.reason}</Text>}
        </Box>
        <HStack flexShrink="0" gap="2">
          <Button size="xs" variant="ghost" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
            {isOpen ? 'Fold' : finding.rivals.length ? 'Choose…' : 'Evidence'}
          </Button>
          {finding.mends.includes('repoint') && (
            <Button size="xs" variant="outline" onClick={props.onSearch}>
              Find its file…
            </Button>
          )}
          {finding.mends.includes('make again') && (
            <Button
              size="xs"
              variant="outline"
              loading={props.isWaiting}
              loadingText="Making it again"
              onClick={props.onMakeAgain}
            >
              Make the proxy again
            </Button>
          )}
        </HStack>
      </Flex>
      {isOpen && (
        <Box ml={{ base: '0', md: '10.75rem' }} mt="3">
          {finding.clipId && <ClipSpan clipId={finding.clipId} />}
          <EvidenceList rows={finding.evidence} />
          {finding.rivals.length > 0 && <Rivals cutId={props.cutId} finding={finding} />}
        </Box>
      )}
    </Box>
  )
}

function ClipSpan({ clipId }: { clipId: string }): ReactElement | null {
  const detail = useRead('readClip', { params: { clipId } })
  return detail.data?.strip ? (
    <Box mb="3">
      <LargeStrip strip={detail.data.strip} />
    </Box>
  ) : null
}

/** Originals that fit equally well, for a person to choose from. */
function Rivals({ cutId, finding }: { cutId: string; finding: FindingRow }): ReactElement {
  const choose = useChange('chooseClip')
  return (
    <Box mt="3">
      {finding.rivals.map((rival) => (
        <Flex key={rival.clipId} align="center" gap="3" py="1">
          <Button
            size="xs"
            loading={choose.isPending}
            onClick={() =>
              choose.mutate({ params: { cutId }, body: { positions: finding.events, clipId: rival.clipId } })
            }
          >
            Use this one
          </Button>
          <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
            {rival.path}
          </Text>
        </Flex>
      ))}
      {choose.error && <Problem message={choose.error.message} />}
    </Box>
  )
}
