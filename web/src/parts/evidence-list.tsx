import { Box, HStack, Table, VisuallyHidden } from '@chakra-ui/react'
import type { EvidenceLine } from '@ennick/contract'
import { CircleHelp, Equal, EqualNot } from 'lucide-react'
import type { ReactElement } from 'react'

/** What was expected beside what is there. Differing rows come first and in ink; agreeing rows are quiet. */
export function EvidenceList({
  rows,
  expected = 'Expected',
  found = 'There is',
}: {
  rows: readonly EvidenceLine[]
  expected?: string
  found?: string
}): ReactElement {
  const sorted = [...rows].sort((a, b) => Number(a.agrees) - Number(b.agrees))
  return (
    <Table.Root size="sm" variant="line" bg="transparent">
      <Table.Header>
        <Table.Row bg="transparent">
          <Table.ColumnHeader width="7.5rem">
            <VisuallyHidden>What</VisuallyHidden>
          </Table.ColumnHeader>
          <Table.ColumnHeader color="quiet">{expected}</Table.ColumnHeader>
          <Table.ColumnHeader color="quiet">{found}</Table.ColumnHeader>
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {sorted.map((row) => (
          <Table.Row
            key={`${row.aspect} ${row.expected} ${row.found}`}
            bg="transparent"
            color={row.agrees ? 'quiet' : 'ink'}
          >
            <Table.Cell verticalAlign="top">
              <HStack gap="1.5">
                <Outcome row={row} />
                <Box fontWeight={row.agrees ? 'normal' : 'semibold'}>{row.aspect}</Box>
              </HStack>
            </Table.Cell>
            <Table.Cell verticalAlign="top" fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
              {row.expected}
            </Table.Cell>
            <Table.Cell verticalAlign="top" fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
              {row.found}
              {row.difference && (
                <Box fontFamily="body" fontWeight="semibold">
                  {row.difference}
                </Box>
              )}
            </Table.Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  )
}

function Outcome({ row: { agrees, difference } }: { row: EvidenceLine }): ReactElement {
  if (!agrees) return <EqualNot size={13} aria-label="differs" />
  return difference ? <CircleHelp size={13} aria-label="not certain" /> : <Equal size={13} aria-label="agrees" />
}
