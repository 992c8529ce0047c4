import { Box, Button, Field, NativeSelect, Stack, Text } from '@chakra-ui/react'
import { badList, type Cut, type CutDetail, mostBytesOfList } from '@ennick/contract'
import { commonRates, isCompoundFile, sameRate } from '@ennick/core'
import { type ReactElement, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { type ApiError, call } from '../../data/api.ts'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { bytes, formatRate } from '../../parts/words.ts'

/** Reads a list from a file, or in the demo from the stand-in cutting room. Nothing is kept of a list with a fault. */
export function ReadCut({
  cuts,
  isOpen,
  onClose,
}: {
  cuts: readonly Cut[]
  isOpen: boolean
  onClose: () => void
}): ReactElement {
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
  const newest = cuts.filter(({ isNewest }) => isNewest)
  const [nextOf, setNextOf] = useState('')
  const asNext = newest.some(({ id }) => id === nextOf) ? { nextOf } : {}
  const [last, setLast] = useState<List | null>(null)
  const read = (list: List, takeGood = false): void => {
    setLast(list)
    add.mutate({ params, body: { ...list, rate, ...asNext, takeGood } })
  }
  const faults = faultsOf(add.error)
  const readFile = async (file: File | undefined): Promise<void> => {
    if (!file) return
    try {
      setUnreadable(null)
      read(await listOf(file))
    } catch (error) {
      setUnreadable(`${file.name} could not be read: ${(error as Error).message}`)
    }
  }
  return (
    <Dialog title="Read a cut" isOpen={isOpen} onClose={onClose}>
      <Stack gap="4" pb="4">
        <Text>CMX 3600 EDL, OTIO, timeline XML (xmeml) or AAF. An EDL does not state its rate:</Text>
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
        {newest.length > 0 && (
          <Field.Root>
            <Field.Label>Is it the next version of a cut?</Field.Label>
            <NativeSelect.Root width="24rem">
              <NativeSelect.Field
                aria-label="Next version of"
                value={nextOf}
                onChange={(event) => setNextOf(event.target.value)}
              >
                <option value="">No, a cut of its own</option>
                {newest.map((cut) => (
                  <option key={cut.id} value={cut.id}>
                    {cut.name}: it becomes version {cut.version + 1}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
            <Field.HelperText>
              Then it is compared with the version before, and takes over what was chosen and decided for the same
              events.
            </Field.HelperText>
          </Field.Root>
        )}
        <input
          ref={field}
          type="file"
          accept=".edl,.otio,.xml,.aaf,.txt,.json"
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
                    void call('readReadyCut', { params: { fileName: cut.fileName } }).then((list) => read(list))
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
        {faults.length > 1 && (
          <Box data-testid="faults">
            {faults.slice(0, 12).map(({ location, reason }) => (
              <Text key={`${location} ${reason}`} py="0.5" overflowWrap="anywhere">
                <b>{location}</b>: {reason}
              </Text>
            ))}
            {faults.length > 12 && <Text color="quiet">and {faults.length - 12} more</Text>}
          </Box>
        )}
        {faults.length > 0 && last && (
          <Button
            alignSelf="start"
            size="sm"
            variant="outline"
            loading={add.isPending}
            onClick={() => read(last, true)}
          >
            Read it without what is wrong
          </Button>
        )}
      </Stack>
    </Dialog>
  )
}

/** Everything that is wrong with a list that was refused. */
function faultsOf(error: ApiError | null): CutDetail['leftOut'] {
  const parsed = error?.code === 'bad-list' ? badList.safeParse(error.details) : null
  return parsed?.success ? parsed.data.faults : []
}

interface List {
  readonly fileName: string
  readonly text?: string
  readonly base64?: string
}

/** @throws Error for one that is larger than what is read */
async function listOf(file: File): Promise<List> {
  const fileName = file.name
  if (!isCompoundFile(new Uint8Array(await file.slice(0, 8).arrayBuffer())))
    return { fileName, text: decode(await file.arrayBuffer()) }
  if (file.size > mostBytesOfList)
    throw new Error(
      `it has ${bytes(file.size)}, and an AAF of at most ${bytes(mostBytesOfList)} is read. ` +
        'Export it linked to its media, without pictures and sound in it.',
    )
  const address = await new Promise<string>((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(reader.result as string)
    reader.onerror = () => reject(reader.error)
    reader.readAsDataURL(file)
  })
  return { fileName, base64: address.slice(address.indexOf(',') + 1) }
}

/** Lists come in UTF-8 or UTF-16 with a mark, or in Latin-1 from older rooms. */
function decode(content: ArrayBuffer): string {
  const bytes = new Uint8Array(content)
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  const unmarked = unmarkedUtf16(bytes)
  if (unmarked) return new TextDecoder(unmarked).decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}

/** Text of western letters in UTF-16 has a zero in every other byte, with a mark or without. */
function unmarkedUtf16(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | null {
  const start = bytes.subarray(0, 200)
  if (start.length < 8) return null
  const zeros = [0, 0]
  start.forEach((byte, index) => {
    if (byte === 0) zeros[index % 2] = (zeros[index % 2] as number) + 1
  })
  const most = start.length * 0.35
  if ((zeros[1] as number) > most && zeros[0] === 0) return 'utf-16le'
  return (zeros[0] as number) > most && zeros[1] === 0 ? 'utf-16be' : null
}
