import { Box, Text } from '@chakra-ui/react'
import type { PullPlanInfo } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { DetailLines } from './detail-lines.tsx'
import { Problem } from './notices.tsx'
import { bytes, count } from './words.ts'

/** What is named one by one; of more their number. */
const mostNamed = 8

/** What would be copied to where, and what is not here. */
export function PlannedCopy({ plan }: { plan: PullPlanInfo }): ReactElement {
  const lines = [
    ...plan.outstanding.map(({ name, reason }) => ({ path: name, state: 'outstanding', detail: reason })),
    ...plan.damaged.map(({ name, reason }) => ({ path: name, state: 'damaged', detail: `Goes as it is: ${reason}` })),
  ]
  return (
    <Box data-testid="pull-plan">
      <Text>
        {count(plan.files, 'file')} of {count(plan.clips, 'clip')}, {bytes(plan.bytes)} to {plan.target}
        {plan.pieces > 0 &&
          ` (${count(plan.pieces, 'stretch', 'stretches')}; whole files would be ${bytes(plan.wholeBytes)})`}
        {plan.already > 0 && `; ${formatNumber(plan.already)} of them are there already and will be compared`}
        <Box as="span" color="quiet">
          {' '}
          · {bytes(plan.freeBytes)} free
        </Box>
      </Text>
      <DetailLines details={{ lines: lines.slice(0, mostNamed), total: lines.length }} />
      {plan.blocked && <Problem message={plan.blocked} />}
    </Box>
  )
}
