import { Box, Button, Field, HStack, Input, Text } from '@chakra-ui/react'
import type { MakeBatch } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { useChange } from '../../data/queries.ts'
import { base64 } from '../../parts/base64.ts'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'
import { Named } from './named.tsx'

/** What the receiving room has of a batch, by a list that it has exported, and the means to read one. */
export function TakenIn({ batch: { id, takenIn } }: { batch: MakeBatch }): ReactElement {
  const read = useChange('readTakenIn')
  const forget = useChange('forgetTakenIn')
  const params = { batchId: id }
  const choose = async (file: File | undefined): Promise<void> => {
    if (file) read.mutate({ params, body: { fileName: file.name, content: await base64(file) } })
  }
  const error = read.error ?? forget.error
  return (
    <Box mt="3" data-testid="taken-in">
      <Text fontWeight="semibold">Has the receiving room taken it in?</Text>
      {takenIn && <Found takenIn={takenIn} />}
      <Field.Root mt="1">
        <Field.Label>
          {takenIn ? 'Read another list' : 'A list of what it has: ALE, CSV or TSV, or a cut list'}
        </Field.Label>
        <HStack>
          <Input
            type="file"
            size="sm"
            py="1"
            width="22rem"
            accept=".ale,.csv,.tsv,.txt,.edl,.otio,.xml,.aaf"
            aria-label="List of what the receiving room has"
            disabled={read.isPending}
            onChange={(event) => {
              void choose(event.target.files?.[0])
              event.target.value = ''
            }}
          />
          {takenIn && (
            <Button size="xs" variant="ghost" loading={forget.isPending} onClick={() => forget.mutate({ params })}>
              Forget {takenIn.fileName}
            </Button>
          )}
        </HStack>
        <Field.HelperText>
          Have it export a list of its clips: names, reels, starts, lengths and tracks are compared with what was made.
          Of a sequence of them (EDL, OTIO, timeline XML, AAF) names and reels are.
        </Field.HelperText>
      </Field.Root>
      {error && <Problem message={error.message} />}
    </Box>
  )
}

function Found({ takenIn }: { takenIn: NonNullable<MakeBatch['takenIn']> }): ReactElement {
  const { fileName, of, seen, differing, differingTotal, missing, missingTotal, unclear, others } = takenIn
  return (
    <Box>
      <Text>
        {seen === of && of > 0
          ? `${fileName} names all ${formatNumber(of)}, as they were made.`
          : `${fileName} names ${formatNumber(seen)} of ${formatNumber(of)} as they were made.`}
        {others > 0 && ` ${count(others, 'row is', 'rows are')} about something else.`}
      </Text>
      <Box maxHeight="12rem" overflowY="auto">
        <Named
          title="Named, and not as it was made"
          lines={differing.map(({ name, line, why }) => `${name}: ${why} (line ${line})`)}
          total={differingTotal}
        />
        <Named title={`Not named in ${fileName}`} lines={missing} total={missingTotal} />
        <Named
          title="Rows that do not say which"
          lines={unclear.map(({ line, label, reason }) => `Line ${line}, ${label}: ${reason}`)}
        />
      </Box>
    </Box>
  )
}
