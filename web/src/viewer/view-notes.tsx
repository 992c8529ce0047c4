import { Box, Button, Flex, HStack, Input, Text } from '@chakra-ui/react'
import type { ClipView, ViewSide } from '@ennick/contract'
import { type ReactElement, type RefObject, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { Problem } from '../parts/notices.tsx'
import { nameOf } from './frames.ts'

/** What was noted and approved on a clip, each with what it was seen on. */
export function ViewNotes({
  view,
  side,
  frame,
  field,
  onFrame,
}: {
  view: ClipView
  side: ViewSide | null
  frame: number
  field: RefObject<HTMLInputElement | null>
  onFrame: (frame: number) => void
}): ReactElement {
  const [text, setText] = useState('')
  const add = useChange('addViewNote', () => setText(''))
  const remove = useChange('removeViewNote')
  const write = (kind: 'note' | 'approved'): void => {
    if (side) add.mutate({ params: { clipId: view.clipId }, body: { frame, text, kind, sideId: side.id } })
  }
  return (
    <Box>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          write('note')
        }}
      >
        <Input
          ref={field}
          size="sm"
          aria-label={`Note at ${nameOf(view, frame)}`}
          placeholder={`At ${nameOf(view, frame)}…`}
          value={text}
          maxLength={2000}
          onChange={(event) => setText(event.target.value)}
        />
        <HStack mt="1.5" gap="1">
          <Button
            size="xs"
            type="submit"
            variant="outline"
            disabled={!side || text.trim() === ''}
            loading={add.isPending}
          >
            Note it
          </Button>
          <Button
            size="xs"
            variant="outline"
            disabled={!side}
            loading={add.isPending}
            onClick={() => write('approved')}
          >
            Approve this frame
          </Button>
        </HStack>
      </form>
      {side && side.kind !== 'original' && (
        <Text fontSize="0.85rem" mt="1.5" data-testid="proxy-reminder">
          A {side.kind} is shown: what is noted or approved now is marked so. Judge colour, grain and focus on the
          original.
        </Text>
      )}
      {add.error && <Problem message={add.error.message} />}
      {remove.error && <Problem message={remove.error.message} />}
      {view.notes.map((note) => (
        <Box key={note.id} borderTopWidth="1px" borderColor="rule" py="1.5" mt="2" data-testid="view-note">
          <Flex align="baseline" gap="2">
            <Button size="xs" variant="ghost" px="0" fontFamily="mono" onClick={() => onFrame(note.frame)}>
              {note.timecode}
            </Button>
            <Text fontWeight={note.kind === 'approved' ? 'semibold' : 'normal'} flex="1">
              {note.kind === 'approved' ? 'Approved' : 'Note'}
            </Text>
            <Button
              size="xs"
              variant="ghost"
              onClick={() => remove.mutate({ params: { clipId: view.clipId, noteId: note.id } })}
            >
              Take back
            </Button>
          </Flex>
          {note.text && <Text overflowWrap="anywhere">{note.text}</Text>}
          <Text fontSize="0.85rem" color={note.isOnOriginal && !note.isOfAnother ? 'quiet' : 'ink'}>
            {whatWasSeen(note)}
          </Text>
        </Box>
      ))}
    </Box>
  )
}

function whatWasSeen({ seenOn, isOnOriginal, isOfAnother }: ClipView['notes'][number]): string {
  const what = isOnOriginal ? `Seen on ${seenOn}` : `Judged on ${seenOn}`
  if (isOfAnother) return `${what}. The original holds something else since: look at it again`
  return isOnOriginal ? what : `${what}: look at the original again`
}
