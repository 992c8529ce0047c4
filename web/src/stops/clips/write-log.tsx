import { Box, Button, HStack, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { FieldInfo } from '@ennick/contract'
import { type ReactElement, useEffect, useRef, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { saveText } from '../../parts/save-text.ts'
import { count } from '../../parts/words.ts'

type Format = 'ale' | 'csv' | 'tsv'
const formats: Record<Format, string> = { ale: 'ALE', csv: 'CSV (commas)', tsv: 'TSV (tabs)' }

/** Writes a log of some clips with chosen columns and hands it to the browser. */
export function WriteLog({
  clipIds,
  fields,
  shown,
  isOpen,
  onClose,
}: {
  clipIds: readonly string[]
  fields: readonly FieldInfo[]
  shown: readonly string[]
  isOpen: boolean
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const [format, setFormat] = useState<Format>('ale')
  const [chosen, setChosen] = useState<readonly string[]>(shown)
  useEffect(() => {
    if (isOpen) setChosen(shown)
  }, [isOpen, shown])
  const write = useChange('exportLog', (logs) => {
    for (const log of logs) saveText(log.fileName, log.text)
    onClose()
  })
  const toggle = (id: string): void =>
    setChosen(chosen.includes(id) ? chosen.filter((each) => each !== id) : [...chosen, id])
  return (
    <Dialog
      title={`Write a log of ${count(clipIds.length, 'clip')}`}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={chosen.length === 0}
          loading={write.isPending}
          onClick={() =>
            write.mutate({
              params: { productionId: production.id },
              body: { clipIds: [...clipIds], fields: [...chosen], format },
            })
          }
        >
          Write {formats[format].slice(0, 3)} with {count(chosen.length, 'column')}
        </Button>
      }
    >
      <Stack gap="4">
        <NativeSelect.Root width="14rem">
          <NativeSelect.Field
            aria-label="Format of the log"
            value={format}
            onChange={(event) => setFormat(event.target.value as Format)}
          >
            {Object.entries(formats).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        {format === 'ale' && (
          <Text color="quiet">
            Name, Tape, Start, End, Duration and Tracks are always in it. Clips of several rates make a file for each.
          </Text>
        )}
        <Box columnCount={3}>
          {fields.map((field) => (
            <HStack key={field.id} as="label" gap="2" py="0.5" cursor="pointer" breakInside="avoid">
              <input type="checkbox" checked={chosen.includes(field.id)} onChange={() => toggle(field.id)} />
              <Text as="span">{field.title}</Text>
            </HStack>
          ))}
        </Box>
        {write.error && <Problem message={write.error.message} />}
        <SyncedLists clipIds={clipIds} />
      </Stack>
    </Dialog>
  )
}

/** What a log cannot say: each picture with the tracks of its recording, for a cutting room to begin with. */
function SyncedLists({ clipIds }: { clipIds: readonly string[] }): ReactElement {
  const production = useProduction()
  const write = useChange('writeSyncedList', ({ fileName, text }) => saveText(fileName, text))
  const answer = useRef<HTMLDivElement>(null)
  // Below the columns there is no room for it on a laptop: what it says of the list is brought into view.
  useEffect(() => {
    if (write.data || write.error) answer.current?.scrollIntoView({ block: 'nearest' })
  }, [write.data, write.error])
  const ask = (format: 'otio' | 'xmeml'): void =>
    write.mutate({ params: { productionId: production.id }, body: { clipIds: [...clipIds], format } })
  return (
    <Box borderTopWidth="1px" borderColor="rule" pt="3">
      <Text fontWeight="semibold">Synced clips as a list</Text>
      <Text color="quiet" mb="2">
        Each picture with the used tracks of its recording. OTIO lays them to the part of a frame, one above the other;
        timeline XML to whole frames, linked.
      </Text>
      <HStack>
        <Button size="xs" variant="outline" loading={write.isPending} onClick={() => ask('otio')}>
          Write OTIO
        </Button>
        <Button size="xs" variant="outline" loading={write.isPending} onClick={() => ask('xmeml')}>
          Write timeline XML
        </Button>
      </HStack>
      <Stack ref={answer} gap="1" mt="2">
        {write.error && <Problem message={write.error.message} />}
        {write.data && (
          <>
            <Text>
              Written: {write.data.fileName}, {count(write.data.clips, 'synced clip')}
            </Text>
            {write.data.notHere.length > 0 && (
              <Text color="quiet">It names what is not here now: {write.data.notHere.join(', ')}</Text>
            )}
            {write.data.losses.map(({ feature, becomes, events }) => (
              <Text key={feature} color="quiet">
                {feature}
                {events > 0 && ` (${count(events, 'event')})`}: {becomes}
              </Text>
            ))}
            {write.data.leftOut.map((line) => (
              <Text key={line} color="quiet">
                {line}
              </Text>
            ))}
          </>
        )}
      </Stack>
    </Box>
  )
}
