import { Box, Button, Text } from '@chakra-ui/react'
import type { Cut, FindingRow } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { FindClip } from '../../parts/find-clip.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'

/** Another clip for the uses of a finding, from its first frame on: what becomes of each, before it does. */
export function ReplaceDialog({
  cut,
  finding,
  onClose,
}: {
  cut: Cut
  finding: FindingRow
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const [clipId, setClipId] = useState('')
  const params = { cutId: cut.id }
  const preview = useChange('replaceFromStart')
  const replace = useChange('replaceFromStart', (done) => {
    onClose()
    navigate(`/p/${production.id}/mend/${done.cutId}`)
  })
  const choose = (id: string): void => {
    setClipId(id)
    if (id) preview.mutate({ params, body: { positions: [...finding.events], clipId: id, apply: false } })
    else preview.reset()
  }
  const uses = count(finding.events.length, 'use')
  const told = clipId ? preview.data?.told : undefined
  return (
    <Dialog
      title={`Replace ${uses} from the start: a preview, nothing is changed yet`}
      isOpen
      onClose={onClose}
      footer={
        <Button
          disabled={!told || preview.isPending}
          loading={replace.isPending}
          onClick={() => replace.mutate({ params, body: { positions: [...finding.events], clipId, apply: true } })}
        >
          Replace {uses} as the next version
        </Button>
      }
    >
      <Text mb="3">
        For a clip without the source timecode of the cut, such as one that was made just for this place: each use shows
        it from its first frame on. Where it stands in the cut, how long it is and how fast it runs stay as they are.
        The list becomes the next version of “{cut.name}”; this version stays, and it can be taken back.
      </Text>
      <FindClip
        label="The clip in its place"
        fieldLabel="Find the clip"
        empty={preview.isPending ? 'looking…' : 'choose a clip'}
        chosen={clipId}
        onChoose={choose}
      />
      <Box mt="3" maxHeight="16rem" overflowY="auto">
        {told?.map((line) => (
          <Text key={line}>{line}</Text>
        ))}
        {preview.error && <Problem message={preview.error.message} />}
        {replace.error && <Problem message={replace.error.message} />}
      </Box>
    </Dialog>
  )
}
