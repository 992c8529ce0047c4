import { Box, Button, Flex, Input, Text } from '@chakra-ui/react'
import type { FindingRow } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { Problem } from './notices.tsx'
import { when } from './words.ts'

/** A finding that stays open by a decision with a reason, which goes into the report; one that blocks only so. */
export function LeaveOpen({ cutId, finding }: { cutId: string; finding: FindingRow }): ReactElement {
  const [reason, setReason] = useState('')
  const decide = useChange('decide')
  return (
    <Box>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          decide.mutate({ params: { cutId }, body: { findingKey: finding.key, reason } })
        }}
      >
        <Flex gap="2">
          <Input
            size="sm"
            bg="page"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            placeholder="Why the handoff may go on with this open"
            aria-label={`Reason to leave open: ${finding.kind}`}
            maxWidth="34rem"
          />
          <Button
            size="sm"
            variant="outline"
            type="submit"
            disabled={reason.trim().length < 3}
            loading={decide.isPending}
          >
            Leave it open
          </Button>
        </Flex>
      </form>
      {decide.error && <Problem message={decide.error.message} />}
    </Box>
  )
}

/** A decision on what was less, or stood otherwise: it says what was meant then, and holds for that alone. */
export function Lapsed({ finding: { lapsed } }: { finding: FindingRow }): ReactElement | null {
  if (!lapsed) return null
  return (
    <Text color="quiet" overflowWrap="anywhere">
      Left open on {when(lapsed.decidedAt)},{' '}
      {lapsed.because === 'more is used' ? 'when less was used' : 'as it stood then'}: “{lapsed.reason}”. Decide anew.
    </Text>
  )
}

/** Takes the decision about a finding back: it blocks again. */
export function WithdrawDecision({ cutId, finding }: { cutId: string; finding: FindingRow }): ReactElement {
  const withdraw = useChange('withdrawDecision')
  return (
    <Button
      size="xs"
      variant="ghost"
      loading={withdraw.isPending}
      onClick={() => withdraw.mutate({ params: { cutId }, body: { findingKey: finding.key } })}
    >
      Withdraw
    </Button>
  )
}
