import { Box, Button, HStack, Stack, Text } from '@chakra-ui/react'
import type { HeldElsewhere, Volume } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useLook } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count } from '../../parts/words.ts'
import { PassedOver } from './passed-over.tsx'

/** Files that are named before somebody asks for more. */
const namedAtOnce = 12

/** Before a card is formatted: is everything that is on it now somewhere else as well, and where. */
export function FormatDialog({ volume, onClose }: { volume: Volume | null; onClose: () => void }): ReactElement {
  const held = useLook('readHeldElsewhere', volume && { params: { volumeId: volume.id } })
  return (
    <Dialog title={`May ${volume?.label ?? ''} be formatted?`} isOpen={volume !== null} onClose={onClose}>
      {held.isFetching ? (
        <Loading what="what is on it now" />
      ) : held.error ? (
        <Problem message={held.error.message} />
      ) : (
        held.data && <Answer held={held.data} />
      )}
    </Dialog>
  )
}

function Answer({ held }: { held: HeldElsewhere }): ReactElement {
  const { files, aloneCount, alone, copies, notLookedAt, unreadable, passedOver } = held
  const [isAll, setAll] = useState(false)
  const isSafe = files > 0 && aloneCount === 0 && unreadable.length === 0
  const named = isAll ? alone : alone.slice(0, namedAtOnce)
  return (
    <Stack gap="4" data-testid="held-elsewhere">
      <Text fontSize="1.1rem" fontWeight="semibold">
        {sentence(held)}
      </Text>
      {copies.map(({ label, folder, files: there }) => (
        <HStack key={`${label} ${folder}`} gap="3" align="baseline">
          <StateWord word="here" />
          <Text>
            <b>{label}</b>
            {folder === null ? ', clip by clip' : `, in ${folder}`}:{' '}
            {there === files ? `all ${count(files, 'file')}` : `${formatNumber(there)} of ${count(files, 'file')}`}
          </Text>
        </HStack>
      ))}
      {isSafe && new Set(copies.map(({ label }) => label)).size === 1 && (
        <Text>That is one volume. A second backup is one more offload, to another.</Text>
      )}
      {notLookedAt.map(({ label, folder, reason }) => (
        <HStack key={`${label} ${folder}`} gap="3" align="baseline">
          <StateWord word="needs a look" />
          <Text>
            <b>{label}</b>, in {folder}: {reason} What was copied there is not counted.
          </Text>
        </HStack>
      ))}
      {named.length > 0 && (
        <Box>
          {named.map(({ path, reason }) => (
            <Box key={path} py="1" borderTopWidth="1px" borderColor="rule">
              <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
                {path}
              </Text>
              <Text color="quiet" fontSize="0.9rem">
                {reason}
              </Text>
            </Box>
          ))}
          {named.length < alone.length && (
            <Button size="xs" variant="ghost" onClick={() => setAll(true)}>
              Show {alone.length - named.length} more
            </Button>
          )}
          {isAll && alone.length < aloneCount && (
            <Text color="quiet">and {formatNumber(aloneCount - alone.length)} more</Text>
          )}
        </Box>
      )}
      {unreadable.length > 0 && (
        <Problem message={`It cannot be read whole: ${unreadable.slice(0, namedAtOnce).join(', ')}.`} />
      )}
      <PassedOver kinds={passedOver} />
      <Text color="quiet" fontSize="0.9rem">
        {isSafe
          ? 'Each is as it was then, by size and time, and its copy is at its place. An offload into the same folder ' +
            'reads both whole once more. Ennick formats nothing: that is for the camera.'
          : 'An offload into the same folder copies what is not there, and compares what is. Ennick formats nothing.'}
      </Text>
    </Stack>
  )
}

function sentence({ files, bytes: size, aloneCount, unreadable }: HeldElsewhere): string {
  if (files === 0) return 'Nothing that an offload copies is on it.'
  if (aloneCount > 0) {
    const are = aloneCount === 1 ? 'is' : 'are'
    const some = `${formatNumber(aloneCount)} of ${count(files, 'file')}`
    return `Not yet: ${some} ${are} nowhere else, as far as can be told.`
  }
  if (unreadable.length) return 'Not yet: not all of it can be read.'
  const [all, are] = files === 1 ? ['The one file that is', 'is'] : [`All ${formatNumber(files)} files that are`, 'are']
  return `${all} on it now, ${bytes(size)}, ${are} elsewhere as well: read back there, or compared whole.`
}
