import { Box, Button, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { type ReactElement, useEffect } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'

/** Lines that are shown before the rest is counted. */
const mostShown = 200

/** What the uses of joined files would name, before they do; what comes of it is the next version of the cut. */
export function TakeApartDialog({
  cut,
  findingKeys,
  onClose,
}: {
  cut: Cut
  findingKeys: readonly string[]
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const params = { cutId: cut.id }
  const { mutate: ask, ...preview } = useChange('takeApart')
  const apart = useChange('takeApart', (done) => {
    onClose()
    navigate(`/p/${production.id}/mend/${done.cutId}`)
  })
  useEffect(
    () => ask({ params: { cutId: cut.id }, body: { findingKeys: [...findingKeys], apply: false } }),
    [ask, cut.id, findingKeys],
  )
  const told = preview.data?.told ?? []
  const uses = count(told.length, 'use')
  return (
    <Dialog
      title={`Take ${uses} of joined files apart: a preview, nothing is changed yet`}
      isOpen
      onClose={onClose}
      footer={
        <Button
          disabled={told.length === 0}
          loading={apart.isPending}
          onClick={() => apart.mutate({ params, body: { findingKeys: [...findingKeys], apply: true } })}
        >
          Take {uses} apart as the next version
        </Button>
      }
    >
      <Text mb="3">
        Each use names the clip that it shows in the joined file, by that clip’s own reel and timecode; one that runs
        over several becomes as many. Where they stand and how long they are stays. The list becomes the next version of
        “{cut.name}”; this version stays, and it can be taken back.
      </Text>
      {preview.isPending && <Loading what="what each use shows" />}
      {(preview.error ?? apart.error) && <Problem message={(preview.error ?? apart.error)?.message ?? ''} />}
      <Box maxHeight="22rem" overflowY="auto">
        {told.slice(0, mostShown).map((line) => (
          <Text key={line} py="1" borderTopWidth="1px" borderColor="rule">
            {line}
          </Text>
        ))}
        {told.length > mostShown && <Text py="1">And {count(told.length - mostShown, 'other')}.</Text>}
      </Box>
    </Dialog>
  )
}
