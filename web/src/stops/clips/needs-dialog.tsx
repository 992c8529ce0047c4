import { Box, Button, HStack, Stack, Table, Text } from '@chakra-ui/react'
import type { NeedsReport } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { lazy, type ReactElement, Suspense } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

const CostChart = lazy(() => import('./cost-chart.tsx'))

/**
 * Which of the marked clips this machine cannot play well enough to cut with, and what each way of helping them costs.
 */
export function NeedsDialog({
  clipIds,
  isOpen,
  onClose,
}: {
  clipIds: readonly string[]
  isOpen: boolean
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const report = useRead('readNeeds', isOpen && clipIds.length ? { params, body: { clipIds: [...clipIds] } } : null)
  const measure = useChange('measureClips')
  const job = useRead('readJob', report.data?.measureJobId ? { params: { jobId: report.data.measureJobId } } : null)
  const data = report.data
  const chartHeight = `${(data?.choices.length ?? 0) * 40 + 10}px`
  const wanting = data?.clips.filter((clip) => clip.suggestion === 'proxy' || clip.suggestion === 'transcode') ?? []
  return (
    <Dialog
      title="What needs a proxy?"
      size="xl"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        data && data.unmeasured > 0 ? (
          <Button
            loading={measure.isPending || data.measureJobId !== null}
            onClick={() => measure.mutate({ params, body: { clipIds: [...clipIds] } })}
          >
            Measure {count(data.unmeasured, 'clip')} here
          </Button>
        ) : (
          <Button onClick={onClose}>Done</Button>
        )
      }
    >
      {report.isPending && <Loading what="the clips" />}
      {report.error && <Problem message={report.error.message} />}
      {measure.error && <Problem message={measure.error.message} />}
      {data && (
        <Stack gap="4">
          <Text fontWeight="semibold">
            {wanting.length === 0
              ? data.unmeasured
                ? `${count(data.unmeasured, 'clip')} not measured yet: in the background a sample of each is decoded, ` +
                  'and a piece of each volume read.'
                : data.clips.some((clip) => clip.suggestion === 'not measured')
                  ? 'All that could be measured can be cut as they are on this machine.'
                  : 'All of them can be cut as they are on this machine.'
              : `${count(wanting.length, 'clip')} of ${formatNumber(data.clips.length)} would cut better with help.`}
          </Text>
          {job.data && data.measureJobId && <JobLine job={job.data} />}
          <Box maxHeight="15rem" overflowY="auto">
            <Table.Root size="sm">
              <Table.Header>
                <Table.Row>
                  {['Clip', 'Codec', 'Data rate', 'Decodes', 'Reads', 'Suggestion', 'Because'].map((title) => (
                    <Table.ColumnHeader key={title}>{title}</Table.ColumnHeader>
                  ))}
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {data.clips.slice(0, 300).map((clip) => (
                  <Table.Row key={clip.clipId}>
                    <Table.Cell>{clip.name}</Table.Cell>
                    <Table.Cell>{clip.codec}</Table.Cell>
                    <Table.Cell fontFamily="mono" fontSize="0.85rem">
                      {clip.dataRate === null ? '' : `${(clip.dataRate / 1e6).toFixed(1)} Mb/s`}
                    </Table.Cell>
                    <Table.Cell>{clip.plays === null ? '' : `${clip.plays} at once`}</Table.Cell>
                    <Table.Cell>
                      {clip.reads !== null ? `${clip.reads} at once` : clip.plays === null ? '' : 'not known'}
                    </Table.Cell>
                    <Table.Cell>
                      <StateWord word={clip.suggestion} />
                    </Table.Cell>
                    <Table.Cell color="quiet" whiteSpace="normal">
                      {clip.reason}
                    </Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
            {data.clips.length > 300 && <Text color="quiet">and {data.clips.length - 300} more</Text>}
          </Box>
          {data.rasters.length > 0 && <ViewQualities rasters={data.rasters} />}
          {data.choices.some((choice) => choice.bytes > 0) && (
            // What loads later takes no button away from under a pointer: its place is kept.
            <HStack align="start" minHeight={`calc(${chartHeight} + 1.6rem)`}>
              <Suspense fallback={<Loading what="the comparison" />}>
                <CostChart
                  choices={data.choices}
                  clips={wanting.length || (data.choices[1]?.clips ?? 0)}
                  height={chartHeight}
                />
              </Suspense>
            </HStack>
          )}
        </Stack>
      )}
    </Dialog>
  )
}

/** What a player shows that decodes only a part of the pixels: enough where decoding is the trouble, and no file. */
function ViewQualities({ rasters }: { rasters: NeedsReport['rasters'] }): ReactElement {
  const { width, height } = useProduction()
  return (
    <details>
      <summary>Would a lower view quality do?</summary>
      <Text color="quiet" fontSize="0.9rem" my="1">
        A player that decodes a part of the pixels shows this in {width} × {height}. It helps where decoding is the
        trouble and not reading; it makes no file, and above 100 % it is softer than the cut.
      </Text>
      <Table.Root size="sm">
        <Table.Header>
          <Table.Row>
            {['Raster', 'Clips', 'Full', '1/2', '1/4', '1/8'].map((title) => (
              <Table.ColumnHeader key={title}>{title}</Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {rasters.map(({ raster, clips, steps }) => (
            <Table.Row key={`${raster} ${steps[0]?.raster.width}`}>
              <Table.Cell fontFamily="mono" fontSize="0.85rem">
                {raster}
              </Table.Cell>
              <Table.Cell>{clips}</Table.Cell>
              {steps.map((step) => (
                <Table.Cell key={step.by} fontFamily="mono" fontSize="0.85rem">
                  {step.raster.width} × {step.raster.height}
                  <Text as="span" color="quiet">
                    {' '}
                    at {step.fittedPercent} %
                  </Text>
                </Table.Cell>
              ))}
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </details>
  )
}
