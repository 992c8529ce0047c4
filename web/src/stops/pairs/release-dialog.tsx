import { Box, Button, Flex, Text } from '@chakra-ui/react'
import { type ReactElement, useEffect } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { bytes, count } from '../../parts/words.ts'

/** Frees space: first how much, and what is kept and why; deleted is only what can be made again. */
export function ReleaseDialog({ pairIds, onClose }: { pairIds: readonly string[]; onClose: () => void }): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const preview = useChange('release')
  const release = useChange('release')
  const ask = preview.mutate
  const asked = pairIds.join()
  useEffect(
    () => ask({ params: { productionId: production.id }, body: { pairIds: asked.split(','), apply: false } }),
    [ask, asked, production.id],
  )
  const shown = release.data ?? preview.data
  return (
    <Dialog
      title={release.data ? 'Released' : `Release ${count(pairIds.length, 'made item')}`}
      isOpen
      onClose={onClose}
      footer={
        release.data ? (
          <Button onClick={onClose}>Close</Button>
        ) : (
          <Button
            disabled={!preview.data?.released}
            loading={release.isPending}
            onClick={() => release.mutate({ params, body: { pairIds: [...pairIds], apply: true } })}
          >
            Delete {count(preview.data?.released ?? 0, 'made item')}, {bytes(preview.data?.bytes ?? 0)}
          </Button>
        )
      }
    >
      {preview.isPending && <Loading what="what can be deleted" />}
      {(preview.error ?? release.error) && <Problem message={(preview.error ?? release.error)?.message ?? ''} />}
      {shown && (
        <>
          <Text mb="3">
            {release.data ? 'Freed: ' : 'Would free '}
            <b>{bytes(shown.bytes)}</b> by deleting {count(shown.released, 'item')} that Ennick made and can make again:
            each original is here and unchanged, and its recipe is stored. Originals are never deleted.
          </Text>
          {shown.kept.length > 0 && (
            <Box maxHeight="20rem" overflowY="auto">
              <Text fontWeight="semibold">{count(shown.kept.length, 'item')} kept</Text>
              {shown.kept.map((item) => (
                <Flex key={item.pairId} gap="4" py="1" borderTopWidth="1px" borderColor="rule" align="baseline">
                  <Text width="16rem" flexShrink="0" overflowWrap="anywhere">
                    {item.name}
                  </Text>
                  <Text color="quiet">{item.reason}</Text>
                </Flex>
              ))}
            </Box>
          )}
        </>
      )}
    </Dialog>
  )
}
