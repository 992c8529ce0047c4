import { Box, Button, HStack, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { FieldInfo } from '@ennick/contract'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
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
    for (const log of logs) {
      const address = URL.createObjectURL(new Blob([log.text], { type: 'text/plain;charset=utf-8' }))
      const link = document.createElement('a')
      link.href = address
      link.download = log.fileName
      link.click()
      URL.revokeObjectURL(address)
    }
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
      </Stack>
    </Dialog>
  )
}
