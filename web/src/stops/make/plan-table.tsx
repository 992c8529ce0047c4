import { Box, Table, Text } from '@chakra-ui/react'
import type { MakePlan } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Go } from '../../parts/go.tsx'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, minutes } from '../../parts/words.ts'
import { SendTime } from './send-time.tsx'

const shownAtMost = 300

/** Instead of a look: nothing is encoded. */
const wayWords = { rewrap: 'put into another container', 'as it is': 'copied as it is' } as const

/** How sure a size is. */
const sizeWords = { exact: '', sampled: 'About ', typical: 'Roughly ' } as const

/** What the plan comes to: bytes, time, what is left free, and what stands against it. */
export function PlanSummary({ plan }: { plan: MakePlan }): ReactElement {
  const production = useProduction()
  const skipped = plan.items.filter((item) => item.skipped !== null).length
  return (
    <>
      {plan.blocked && <Problem message={plan.blocked} />}
      {plan.warnings.map((warning) => (
        <Text key={warning} mb="2">
          <StateWord word="needs a look" /> {warning}
        </Text>
      ))}
      <Text>
        {sizeWords[plan.basis]}
        {bytes(plan.bytes)}
        {plan.minutes !== null &&
          `, ${plan.also.length ? 'at most' : 'about'} ${minutes(plan.minutes)} of encoding here`}
      </Text>
      {plan.bytes > 0 && <SendTime bytes={plan.bytes} />}
      {plan.places.map(({ label, path, freeBytes, leftBytes, bytes: going }) => (
        <Text key={path} color="quiet" overflowWrap="anywhere" data-testid="plan-place">
          {plan.places.length > 1 && `${bytes(going)} to “${label}”, `}
          {plan.places.length === 1 && 'To '}
          {path}
          {freeBytes !== null &&
            leftBytes !== null &&
            ` · ${bytes(freeBytes)} free, ${bytes(leftBytes)} left afterwards`}
        </Text>
      ))}
      <Text color="quiet">
        <Go to={`/p/${production.id}/settings`}>Change where it goes</Go>
        {skipped > 0 && ` · ${skipped} skipped, with the reason below`}
      </Text>
    </>
  )
}

/** What will be made of each clip, and what is skipped and why. */
export function PlanTable({ plan }: { plan: MakePlan }): ReactElement {
  const lutNames = new Map((useRead('listLuts', {}).data ?? []).map((lut) => [lut.id, lut.name]))
  const items = [...plan.items]
    .sort((a, b) => Number(a.skipped !== null) - Number(b.skipped !== null))
    .slice(0, shownAtMost)
  return (
    <>
      <Table.Root size="sm">
        <Table.Header>
          <Table.Row bg="transparent">
            <Table.ColumnHeader color="quiet">Clip</Table.ColumnHeader>
            <Table.ColumnHeader color="quiet">What is made</Table.ColumnHeader>
            <Table.ColumnHeader color="quiet" textAlign="end">
              Raster
            </Table.ColumnHeader>
            <Table.ColumnHeader color="quiet">Look</Table.ColumnHeader>
            <Table.ColumnHeader color="quiet" textAlign="end">
              Frames
            </Table.ColumnHeader>
            <Table.ColumnHeader color="quiet" textAlign="end">
              Size
            </Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {items.map((item) => (
            <Table.Row key={item.clipId} bg="transparent">
              <Table.Cell fontWeight={item.skipped ? 'normal' : 'semibold'}>{item.name}</Table.Cell>
              {item.skipped ? (
                <Table.Cell colSpan={5} color="quiet">
                  Skipped: {item.skipped}
                </Table.Cell>
              ) : (
                <>
                  <Table.Cell overflowWrap="anywhere" fontSize="0.85rem" fontFamily="mono">
                    {item.outputs[0]}
                    {item.outputs.length > 1 && (
                      <Box as="span" color="quiet">
                        {' '}
                        and {item.outputs.length - 1} sound files
                      </Box>
                    )}
                    {item.isSoundLaid && (
                      <Text color="quiet" fontFamily="body">
                        with the recording that it was synced with
                      </Text>
                    )}
                  </Table.Cell>
                  <Table.Cell textAlign="end" fontFamily="mono" fontSize="0.85rem" whiteSpace="nowrap">
                    {item.raster}
                  </Table.Cell>
                  <Table.Cell>
                    {item.method !== 'encode'
                      ? wayWords[item.method]
                      : item.viewingLut
                        ? (lutNames.get(item.viewingLut) ?? item.viewingLut)
                        : 'no LUT'}
                  </Table.Cell>
                  <Table.Cell textAlign="end" fontFamily="mono" fontSize="0.85rem">
                    {item.frames}
                  </Table.Cell>
                  <Table.Cell textAlign="end" fontFamily="mono" fontSize="0.85rem" whiteSpace="nowrap">
                    {item.basis === 'exact' ? '' : '~ '}
                    {bytes(item.bytes ?? 0)}
                  </Table.Cell>
                </>
              )}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {plan.items.length > shownAtMost && (
        <Text color="quiet" mt="2">
          and {plan.items.length - shownAtMost} more clips
        </Text>
      )}
    </>
  )
}
