import { Box, Button, Stack, Table, Text } from '@chakra-ui/react'
import type { MovedOriginal, Volume } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactElement, useRef } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'
import { movedFolders } from './moved-folders.ts'

/** Folders that are told before each original is listed. */
const mostFolders = 6
const rowPixels = 52

/** Points originals that lie at another place than the ledger has them at where they are; where to is shown first. */
export function MovedDialog({ volume, onClose }: { volume: Volume | null; onClose: () => void }): ReactElement {
  const params = volume && { params: { volumeId: volume.id } }
  const moved = useRead('listMoved', params)
  const repoint = useChange('repointMoved', onClose)
  const list = moved.data ?? []
  const originals = count(new Set(list.map(({ clipId }) => clipId)).size, 'original')
  const isAway = volume?.isHere === false
  return (
    <Dialog
      title={
        isAway
          ? `Point the originals of ${volume.label} at their copies?`
          : `Point originals at where they lie on ${volume?.label ?? ''} now?`
      }
      isOpen={volume !== null}
      onClose={onClose}
      size="xl"
      footer={
        <Button
          disabled={list.length === 0}
          loading={repoint.isPending}
          onClick={() => params && repoint.mutate(params)}
        >
          Repoint {originals}
        </Button>
      }
    >
      <Stack gap="4">
        {moved.isPending && <Loading what="what was moved" />}
        {moved.data && list.length === 0 && <Text>Nothing is at another place any more.</Text>}
        {list.length > 0 && (
          <>
            <Text>
              {isAway
                ? `${volume.label} is away, and the same content, by size and fingerprint, is on volumes that are here.`
                : 'They are gone from where the ledger has them; content alike by size and fingerprint lies here.'}{' '}
              No file is touched; each is read once more before it is pointed at. It can be taken back in Mend.
            </Text>
            <Folders list={list} />
            <Originals list={list} />
          </>
        )}
        {moved.error && <Problem message={moved.error.message} />}
        {repoint.error && <Problem message={repoint.error.message} />}
      </Stack>
    </Dialog>
  )
}

function Folders({ list }: { list: readonly MovedOriginal[] }): ReactElement {
  const folders = movedFolders(list)
  const more = folders.length - mostFolders
  return (
    <Box>
      <Table.Root size="sm">
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader>Was</Table.ColumnHeader>
            <Table.ColumnHeader>Is</Table.ColumnHeader>
            <Table.ColumnHeader textAlign="end">Originals</Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {folders.slice(0, mostFolders).map(({ was, is, originals }) => (
            <Table.Row key={`${was} ${is}`}>
              <Table.Cell overflowWrap="anywhere">{was}</Table.Cell>
              <Table.Cell overflowWrap="anywhere">{is}</Table.Cell>
              <Table.Cell textAlign="end">{formatNumber(originals)}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {more > 0 && <Text color="quiet">and {count(more, 'folder')} more</Text>}
    </Box>
  )
}

/** Each original by itself: where it was, and where it is. */
function Originals({ list }: { list: readonly MovedOriginal[] }): ReactElement {
  const scroll = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({
    count: list.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowPixels,
    overscan: 6,
  })
  return (
    <Box ref={scroll} maxHeight="14rem" overflowY="auto" borderWidth="1px" borderColor="rule" tabIndex={0}>
      <Box height={`${virtual.getTotalSize()}px`} position="relative">
        {virtual.getVirtualItems().map(({ index, start }) => {
          const { name, was, is } = list[index] as MovedOriginal
          return (
            <Box
              key={index}
              position="absolute"
              top="0"
              width="100%"
              height={`${rowPixels}px`}
              px="3"
              py="1"
              transform={`translateY(${start}px)`}
            >
              <Text truncate fontWeight="semibold">
                {name}
              </Text>
              <Text truncate color="quiet" fontSize="0.85rem" title={`${place(was)} → ${place(is)}`}>
                {place(was)} → {place(is)}
              </Text>
            </Box>
          )
        })}
      </Box>
    </Box>
  )
}

const place = ({ path, volumeLabel }: MovedOriginal['was']): string => `${volumeLabel}/${path}`
