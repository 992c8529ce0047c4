import { Box, Button, HStack, NativeSelect, Table, Text } from '@chakra-ui/react'
import type { SoundSync } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'

const shownRows = 200

/** What a way of syncing found: to choose, synced, and left over. */
export function SyncFound({
  found,
  choices,
  onChoose,
  onNudge,
}: {
  found: SoundSync
  choices: Readonly<Record<string, string>>
  onChoose: (choices: Readonly<Record<string, string>>) => void
  onNudge: (clipId: string, samples: number) => void
}): ReactElement {
  const left = [
    found.several.length ? `${formatNumber(found.several.length)} to choose` : '',
    found.unsyncedTotal ? `${found.unsyncedTotal} without sound` : '',
    found.unusedSounds.length ? `${count(found.unusedSounds.length, 'recording')} without picture` : '',
  ].filter(Boolean)
  return (
    <>
      <Text fontWeight="semibold" role="status">
        {formatNumber(found.syncedTotal)} of {count(found.pictures, 'picture')} synced with{' '}
        {count(found.sounds, 'recording')}
        {left.length > 0 && ` · ${left.join(' · ')}`}
        {found.syncedTotal > 0 && found.changes === 0 && ' · all of it is kept already'}
      </Text>
      {found.several.length > 0 && (
        <Section title="Several recordings fit">
          {found.several.slice(0, shownRows).map((row) => (
            <Box key={row.clipId} display="flex" gap="3" alignItems="center" py="1">
              <Text flex="1">{row.name}</Text>
              <NativeSelect.Root size="sm" width="22rem">
                <NativeSelect.Field
                  aria-label={`The sound of ${row.name}`}
                  value={choices[row.clipId] ?? ''}
                  onChange={(event) => onChoose({ ...choices, [row.clipId]: event.target.value })}
                >
                  <option value="">choose…</option>
                  {row.candidates.map((candidate) => (
                    <option key={candidate.soundId} value={candidate.soundId}>
                      {candidate.names.join(', ')}
                      {candidate.lacks ? `, ${candidate.lacks}` : ''}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Box>
          ))}
        </Section>
      )}
      {found.synced.length > 0 && (
        <Section title="Synced">
          <Box maxHeight="18rem" overflowY="auto">
            <Table.Root size="sm">
              <Table.Header>
                <Table.Row>
                  {['Picture', 'Starts', 'Sound', 'Sound timecode', 'Offset'].map((title) => (
                    <Table.ColumnHeader key={title}>{title}</Table.ColumnHeader>
                  ))}
                </Table.Row>
              </Table.Header>
              <Table.Body>
                {found.synced.slice(0, shownRows).map((row) => (
                  <Table.Row key={row.clipId} data-testid="synced">
                    <Table.Cell>{row.name}</Table.Cell>
                    <Table.Cell fontFamily="mono">{row.startTimecode}</Table.Cell>
                    <Table.Cell>
                      {row.names.join(', ')}
                      <Text fontSize="0.85rem" color="quiet">
                        {[
                          row.method === 'points' ? 'by marked points' : `by ${row.method}`,
                          row.likeness === null ? '' : `${Math.round(100 * row.likeness)} % alike`,
                          row.drift ?? '',
                        ]
                          .filter(Boolean)
                          .join(' · ')}
                      </Text>
                      {row.lacks && <Text fontWeight="semibold">{row.lacks}</Text>}
                      {choices[row.clipId] && (
                        <Button
                          size="xs"
                          variant="ghost"
                          aria-label={`Choose the sound of ${row.name} again`}
                          onClick={() =>
                            onChoose(Object.fromEntries(Object.entries(choices).filter(([id]) => id !== row.clipId)))
                          }
                        >
                          Choose again
                        </Button>
                      )}
                    </Table.Cell>
                    <Table.Cell fontFamily="mono">{row.timecode}</Table.Cell>
                    <Table.Cell fontSize="0.85rem">
                      <Offset row={row} onNudge={(samples) => onNudge(row.clipId, samples)} />
                    </Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
            {found.syncedTotal > shownRows && <Text color="quiet">and {found.syncedTotal - shownRows} more</Text>}
          </Box>
        </Section>
      )}
      <LeftOver title="Pictures without sound" rows={found.unsynced} total={found.unsyncedTotal} />
      <LeftOver title="Recordings without picture" rows={found.unusedSounds} total={found.unusedSounds.length} />
    </>
  )
}

/** Where the recording lies, and by hand earlier or later: by a frame, a quarter of one, a millisecond, a sample. */
function Offset({
  row,
  onNudge,
}: {
  row: SoundSync['synced'][number]
  onNudge: (samples: number) => void
}): ReactElement {
  const [isOpen, setOpen] = useState(false)
  const steps = [
    { word: '1 frame', samples: Math.round(row.samplesPerFrame) },
    { word: '¼ frame', samples: Math.round(row.samplesPerFrame / 4) },
    { word: '1 ms', samples: Math.round(row.sampleRate / 1000) },
    { word: '1 sample', samples: 1 },
  ]
  return (
    <>
      <Text fontFamily="mono">{row.offset}</Text>
      {row.nudged !== 0 && (
        <Text>
          moved by hand by {row.nudged > 0 ? '+' : '−'}
          {formatNumber(Math.abs(row.nudged))} samples
        </Text>
      )}
      <Button
        size="xs"
        variant="ghost"
        px="0"
        aria-expanded={isOpen}
        aria-label={`Move the sound of ${row.name} by hand`}
        onClick={() => setOpen(!isOpen)}
      >
        {isOpen ? 'Close' : 'By hand…'}
      </Button>
      {isOpen &&
        steps.map(({ word, samples }) => (
          <HStack key={word} gap="1">
            <Button size="xs" variant="outline" onClick={() => onNudge(-samples)} aria-label={`${word} earlier`}>
              −
            </Button>
            <Text width="4.5rem" textAlign="center">
              {word}
            </Text>
            <Button size="xs" variant="outline" onClick={() => onNudge(samples)} aria-label={`${word} later`}>
              +
            </Button>
          </HStack>
        ))}
    </>
  )
}

function LeftOver({
  title,
  rows,
  total,
}: {
  title: string
  rows: SoundSync['unsynced']
  total: number
}): ReactElement | null {
  if (rows.length === 0) return null
  return (
    <Section title={title}>
      <Box maxHeight="10rem" overflowY="auto">
        {rows.slice(0, shownRows).map((row) => (
          <Text key={row.clipId} py="0.5">
            {row.name}{' '}
            <Box as="span" color="quiet">
              {row.why}
            </Box>
          </Text>
        ))}
        {total > shownRows && <Text color="quiet">and {total - shownRows} more</Text>}
      </Box>
    </Section>
  )
}
