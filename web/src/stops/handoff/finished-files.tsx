import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Cut, Finished } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { useRead } from '../../data/queries.ts'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { CaptionedPicture } from '../../parts/frame-picture.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'
import { FinishedDialog } from './finished-dialog.tsx'
import { SinceCheckLines, Told } from './since-then.tsx'

/** What came back finished, held against the originals of the cut. */
export function FinishedFiles({ cut }: { cut: Cut }): ReactElement {
  const finished = useRead('listFinished', { params: { cutId: cut.id } })
  const [isOpen, setOpen] = useState(false)
  return (
    <Section
      title="Finished files"
      action={
        <Button size="xs" variant="outline" onClick={() => setOpen(true)}>
          Check a finished file
        </Button>
      }
    >
      {finished.error && <Problem message={finished.error.message} />}
      {finished.data?.length === 0 && (
        <Text color="quiet">
          No render or master of this cut was checked yet. It is held against the originals, event by event: a slate,
          black, another take or a slip of a frame is told with its timecode, before anybody else sees it.
        </Text>
      )}
      {finished.data?.map((each) => (
        <Box key={each.job.id} data-testid="finished">
          <JobLine job={each.job} />
          {each.outcome && <Outcome jobId={each.job.id} cutId={cut.id} outcome={each.outcome} />}
        </Box>
      ))}
      {isOpen && <FinishedDialog cut={cut} onClose={() => setOpen(false)} />}
    </Section>
  )
}

type Outcome = NonNullable<Finished['outcome']>

function Outcome({ jobId, cutId, outcome }: { jobId: string; cutId: string; outcome: Outcome }): ReactElement {
  const [isWhole, setWhole] = useState(false)
  const { settings, rows, rowCount, allOff } = outcome
  const differs = settings.flatMap(({ agrees, aspect, difference }) => (agrees ? [] : [`${aspect} (${difference})`]))
  return (
    <Box pl="8.5rem" pt="1.5" pb="3">
      {outcome.fileNow !== 'as checked' && <Told word={outcome.fileNow}>{fileWords[outcome.fileNow]}</Told>}
      <Text>
        <b>{headline(outcome)}</b>{' '}
        <Box as="span" color="quiet">
          {known(outcome)}
        </Box>
      </Text>
      {allOff !== null && (
        <Text>
          Nearly all of it runs {count(Math.abs(allOff), 'frame')} {allOff < 0 ? 'late' : 'early'}: is that where it
          begins?
        </Text>
      )}
      <Flex align="baseline" gap="3">
        <Text>
          {differs.length === 0
            ? 'Rate, raster, timecode, length and sound are as cut and production say.'
            : `Not as cut and production say: ${differs.join('; ')}.`}
        </Text>
        <Button size="xs" variant="ghost" aria-expanded={isWhole} onClick={() => setWhole(!isWhole)}>
          {isWhole ? 'Less' : 'All of it'}
        </Button>
      </Flex>
      {isWhole && <EvidenceList rows={settings} expected="Cut and production" found="The file" />}
      {rows.map((row) => (
        <Row key={`${row.track} ${row.number} ${row.record}`} jobId={jobId} row={row} />
      ))}
      {rowCount > rows.length && <Text color="quiet">And {rowCount - rows.length} more.</Text>}
      <SinceCheckLines jobId={jobId} cutId={cutId} />
    </Box>
  )
}

/** What was checked is not what lies there. */
const fileWords = {
  'changed since': 'Another file lies there now than was checked: check that.',
  'not found': 'The file that was checked is not there now.',
  'not answering': 'Its share or disk does not answer: what lies there now is not known.',
} as const

function headline({ events, asCut, wrong }: Outcome): string {
  if (wrong > 0) return `${formatNumber(wrong)} of ${count(events, 'event')} ${wrong === 1 ? 'is' : 'are'} not as cut.`
  if (asCut === events)
    return events === 1 ? 'Its one event is as cut.' : `All ${formatNumber(events)} events are as cut.`
  return asCut === 0 ? 'Nothing of it could be compared.' : 'Nothing is wrong in what could be compared.'
}

/** What is well, and how far that is known; and of how much nothing is. */
function known({ events, asCut, wrong, toTheFrame, ofOriginal, frames }: Outcome): string {
  const told = [
    toTheFrame > 0 && `${toTheFrame === asCut ? 'all' : toTheFrame} told to the frame`,
    ofOriginal > 0 && `${ofOriginal === asCut ? 'all' : ofOriginal} told to hold the fine detail of the original`,
  ].filter(Boolean)
  const untold = events - asCut - wrong
  return [
    `${count(asCut, 'event')} as cut${told.length ? `, ${told.join(', ')}` : ''}.`,
    untold > 0 && `${untold} could not be compared.`,
    `${count(frames, 'frame')} decoded.`,
  ]
    .filter(Boolean)
    .join(' ')
}

function Row({ jobId, row }: { jobId: string; row: Outcome['rows'][number] }): ReactElement {
  const { number, track, record, clipName, state, detail, frame, original } = row
  return (
    <Flex gap="4" py="2" borderTopWidth="1px" borderColor="rule" align="start" data-testid="finished-row">
      <Box width="9.5rem" flexShrink="0">
        <StateWord word={state} />
      </Box>
      <Box flex="1" minWidth="0">
        <Text overflowWrap="anywhere">
          <Box as="span" fontFamily="mono" fontSize="0.88rem">
            {record}
          </Box>{' '}
          {track} {number} <b>{clipName}</b>
        </Text>
        <Text color="quiet">{detail}</Text>
      </Box>
      {frame !== null && original && (
        <Flex gap="2" flexShrink="0">
          <CaptionedPicture
            source={addressOf('finishedPicture', { jobId, frame: String(frame) })}
            what={`The finished file at ${record}`}
            caption="finished"
          />
          <CaptionedPicture
            source={addressOf('filePicture', { fileId: original.fileId, frame: String(original.frame) })}
            what={`What the cut says at ${record}`}
            caption="the original"
          />
        </Flex>
      )}
    </Flex>
  )
}
