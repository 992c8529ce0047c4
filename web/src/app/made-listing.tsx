import { Box, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { MadePlace } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useLook } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { Loading, Problem } from '../parts/notices.tsx'
import { StateWord } from '../parts/state-word.tsx'
import { bytes, count, when } from '../parts/words.ts'

/** What is in a folder of made files: what each file is, what is new, what is not there and what nobody knows. */
export function MadeListing({
  place,
  isOpen,
  onClose,
}: {
  place: MadePlace
  isOpen: boolean
  onClose: () => void
}): ReactElement {
  const listing = useLook('lookIntoMadePlace', isOpen ? { params: { volumeId: place.id } } : null)
  const [only, setOnly] = useState('')
  const { data } = listing
  const shown = (data?.files ?? []).filter((file) => only === '' || (only === 'new' ? file.isNew : file.state === only))
  const fresh = (data?.files ?? []).filter(({ isNew }) => isNew).length
  return (
    <Dialog title={`What lies in “${place.label}”`} size="xl" isOpen={isOpen} onClose={onClose}>
      {isOpen && listing.isPending && <Loading what="the folder" />}
      {listing.error && <Problem message={listing.error.message} />}
      {data && (
        <>
          <HStack gap="4" mb="3" align="center">
            <Text flex="1">
              {data.counts
                .filter(({ files }) => files > 0)
                .map(({ state, files, bytes: size }) => `${count(files, 'file')} ${state}, ${bytes(size)}`)
                .join(' · ') || 'It is empty.'}
            </Text>
            <NativeSelect.Root size="sm" width="14rem">
              <NativeSelect.Field
                aria-label="Show only"
                value={only}
                onChange={(event) => setOnly(event.target.value)}
                bg="page"
              >
                <option value="">all of it</option>
                <option value="new">made within the last day ({fresh})</option>
                {data.counts.map(({ state, files }) => (
                  <option key={state} value={state}>
                    {state} ({files})
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </HStack>
          <Box maxHeight="26rem" overflowY="auto">
            {shown.map(({ path, sizeBytes, modifiedAt, state, clip, recipe, isNew }) => (
              <HStack
                key={path}
                gap="3"
                py="1"
                align="baseline"
                borderTopWidth="1px"
                borderColor="rule"
                data-testid="made-file"
              >
                <Box width="9rem" flexShrink="0">
                  <StateWord word={state} />
                </Box>
                <Box flex="1" minWidth="0">
                  <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
                    {path}
                  </Text>
                  {clip && (
                    <Text color="quiet" fontSize="0.85rem">
                      of {clip}
                      {recipe && `, ${recipe}`}
                      {isNew && ' · new'}
                    </Text>
                  )}
                </Box>
                <Text color="quiet" whiteSpace="nowrap">
                  {bytes(sizeBytes)}
                </Text>
                <Text color="quiet" width="9rem" textAlign="end" whiteSpace="nowrap">
                  {modifiedAt ? when(modifiedAt) : 'not there'}
                </Text>
              </HStack>
            ))}
            {shown.length === 0 && <Text color="quiet">Nothing of that kind.</Text>}
          </Box>
          {data.total > data.files.length && (
            <Text color="quiet">
              The first {formatNumber(data.files.length)} of {formatNumber(data.total)}.
            </Text>
          )}
          <Text color="quiet" fontSize="0.9rem" mt="3">
            Set aside is what a mend has replaced, what was untied, and what is of clips that were taken out; it can
            come back. What is not in the ledger is never touched. To free space, release proxies in Pairs.
          </Text>
        </>
      )}
    </Dialog>
  )
}
