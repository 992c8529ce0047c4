import { Box, Button, Field, NativeSelect, Stack, Text } from '@chakra-ui/react'
import { commonRates, sameRate } from '@ennick/core'
import { type ReactElement, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { call } from '../../data/api.ts'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { formatRate } from '../../parts/words.ts'

/** Reads a list from a file, or in the demo from the stand-in cutting room. Nothing is kept of a list with a fault. */
export function ReadCut({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const field = useRef<HTMLInputElement>(null)
  const [rateIndex, setRateIndex] = useState(() => commonRates.findIndex((rate) => sameRate(rate, production.rate)))
  const rate = commonRates[rateIndex] ?? production.rate
  const [unreadable, setUnreadable] = useState<string | null>(null)
  const ready = useRead('listReadyCuts', isOpen && production.isDemo ? {} : null)
  const add = useChange('addCut', (cut) => {
    onClose()
    navigate(`/p/${production.id}/cuts/${cut.id}`)
  })
  const params = { productionId: production.id }
  const readFile = async (file: File | undefined): Promise<void> => {
    if (!file) return
    try {
      setUnreadable(null)
      add.mutate({ params, body: { fileName: file.name, text: decode(await file.arrayBuffer()), rate } })
    } catch (error) {
      setUnreadable(`${file.name} could not be read: ${(error as Error).message}`)
    }
  }
  return (
    <Dialog title="Read a cut" isOpen={isOpen} onClose={onClose}>
      <Stack gap="4" pb="4">
        <Text>CMX 3600 EDL or OTIO. An EDL does not state its rate:</Text>
        <Field.Root>
          <Field.Label>Count an EDL at</Field.Label>
          <NativeSelect.Root width="12rem">
            <NativeSelect.Field value={rateIndex} onChange={(event) => setRateIndex(Number(event.target.value))}>
              {commonRates.map((rate, index) => (
                <option key={formatRate(rate)} value={index}>
                  {formatRate(rate)}
                  {sameRate(rate, production.rate) ? ', as the production' : ''}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </Field.Root>
        <input
          ref={field}
          type="file"
          accept=".edl,.otio,.txt,.json"
          hidden
          aria-label="List file"
          onChange={(event) => {
            void readFile(event.target.files?.[0])
            // The same file may be chosen again after it was put right.
            event.target.value = ''
          }}
        />
        <Button alignSelf="start" loading={add.isPending} onClick={() => field.current?.click()}>
          Choose a list file
        </Button>
        {ready.data && ready.data.length > 0 && (
          <Box>
            <Text fontWeight="semibold">From the cutting room (a stand-in, in the demo)</Text>
            {ready.data.map((cut) => (
              <Box key={cut.fileName} py="2" borderBottomWidth="1px" borderColor="rule">
                <Button
                  size="xs"
                  variant="outline"
                  float="right"
                  disabled={add.isPending}
                  onClick={() =>
                    void call('readReadyCut', { params: { fileName: cut.fileName } }).then((body) =>
                      add.mutate({ params, body: { ...body, rate } }),
                    )
                  }
                >
                  Read {cut.fileName.split('.').at(-1)?.toUpperCase()}
                </Button>
                <Text>{cut.fileName}</Text>
                <Text color="quiet" fontSize="0.9rem">
                  {cut.about}
                </Text>
              </Box>
            ))}
          </Box>
        )}
        {unreadable && <Problem message={unreadable} />}
        {add.error && <Problem message={add.error.message} />}
      </Stack>
    </Dialog>
  )
}

/** Lists come in UTF-8 or UTF-16 with a mark, or in Latin-1 from older rooms. */
function decode(content: ArrayBuffer): string {
  const bytes = new Uint8Array(content)
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}
