import { Box, Button, NativeSelect, Stack, Table, Text } from '@chakra-ui/react'
import type { SoundSync } from '@ennick/contract'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { orderOfEdits, useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { Tick } from '../../parts/tick.tsx'
import { count } from '../../parts/words.ts'

const shownRows = 200

/**
 * Finds by timecode which recordings ran while pictures were taken, shows each with its exact offset and everything that
 * is left over, and keeps it with the clips when told to.
 */
export function SyncSound({
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
  const [choices, setChoices] = useState<Readonly<Record<string, string>>>({})
  const [withWords, setWithWords] = useState(true)
  const preview = useChange('syncSound')
  const close = (): void => {
    setChoices({})
    onClose()
  }
  const keep = useChange('syncSound', close, orderOfEdits)
  const body = {
    clipIds: [...clipIds],
    choices: Object.entries(choices).map(([clipId, soundId]) => ({ clipId, soundId })),
    withWords,
  }
  const { mutate, reset } = preview
  const asked = JSON.stringify(body)
  useEffect(() => {
    if (isOpen) mutate({ params: { productionId: production.id }, body: { ...JSON.parse(asked), apply: false } })
    else reset()
  }, [isOpen, asked, production.id, mutate, reset])
  const found = preview.data
  const error = keep.error ?? preview.error
  return (
    <Dialog
      title={clipIds.length ? `Sync ${count(clipIds.length, 'clip')} with sound` : 'Sync sound by timecode'}
      size="xl"
      isOpen={isOpen}
      onClose={close}
      footer={
        <Button
          disabled={!found || preview.isPending || found.changes === 0}
          loading={keep.isPending}
          onClick={() => keep.mutate({ params, body: { ...body, apply: true } })}
        >
          {found?.syncedTotal ? `Keep the sync of ${count(found.syncedTotal, 'picture')}` : 'Keep the sync'}
        </Button>
      }
    >
      <Stack gap="4">
        <Text color="quiet">
          A picture and a recording that carry one timecode were taken at one moment. What is kept are columns of the
          picture’s clip: the recording, its roll, its timecode at the first frame, and the offset to the sample. No
          file is changed, and it can be undone.
        </Text>
        {error && <Problem message={error.message} />}
        {!found && !error && <Loading what="the recordings" />}
        {found && <Found found={found} choices={choices} onChoose={setChoices} />}
        <Tick
          label="Take scene and take from the sound where the picture has none"
          isOn={withWords}
          onChange={setWithWords}
        />
      </Stack>
    </Dialog>
  )
}

function Found({
  found,
  choices,
  onChoose,
}: {
  found: SoundSync
  choices: Readonly<Record<string, string>>
  onChoose: (choices: Readonly<Record<string, string>>) => void
}): ReactElement {
  const left = [
    found.several.length ? `${found.several.length} to choose` : '',
    found.unsyncedTotal ? `${found.unsyncedTotal} without sound` : '',
    found.unusedSounds.length ? `${count(found.unusedSounds.length, 'recording')} without picture` : '',
  ].filter(Boolean)
  return (
    <>
      <Text fontWeight="semibold" role="status">
        {found.syncedTotal} of {count(found.pictures, 'picture')} synced with {count(found.sounds, 'recording')}
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
          <Box maxHeight="16rem" overflowY="auto">
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
                  <Table.Row key={row.clipId}>
                    <Table.Cell>{row.name}</Table.Cell>
                    <Table.Cell fontFamily="mono">{row.startTimecode}</Table.Cell>
                    <Table.Cell>
                      {row.names.join(', ')}
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
                    <Table.Cell fontFamily="mono" fontSize="0.85rem">
                      {row.offset}
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
