import { Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { flippedTracks } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'

/** Systems count tracks from the lowest layer or from the uppermost: the order of some or all is turned over here. */
export function FlipTracks({ cut }: { cut: Cut }): ReactElement {
  const [isOpen, setOpen] = useState(false)
  const names = cut.tracks.map(({ name }) => name)
  const pictures = names.filter((name) => name.startsWith('V'))
  const [from, setFrom] = useState(pictures[0] ?? names[0] ?? '')
  const [to, setTo] = useState((pictures.length > 1 ? pictures.at(-1) : names.at(-1)) ?? '')
  const flip = useChange('flipTracks', () => setOpen(false))
  const becomes = flippedTracks(cut.tracks, from, to)
  return (
    <>
      <Button size="xs" variant="ghost" onClick={() => setOpen(true)}>
        Flip tracks
      </Button>
      <Dialog
        title="Flip the order of tracks"
        isOpen={isOpen}
        onClose={() => setOpen(false)}
        footer={
          <Button
            disabled={!becomes}
            loading={flip.isPending}
            onClick={() => flip.mutate({ params: { cutId: cut.id }, body: { from, to } })}
          >
            Flip {from} to {to}
          </Button>
        }
      >
        <Text mb="3">
          Here V1 is the lowest picture and A1 the first sound. Some systems count from the uppermost layer: then what
          should lie on top comes in below. Flipping again puts it back.
        </Text>
        <HStack mb="3">
          <TrackSelect label="From track" value={from} onChange={setFrom} names={names} />
          <Text>to</Text>
          <TrackSelect label="To track" value={to} onChange={setTo} names={names} />
        </HStack>
        <Text data-testid="flip-numbering">
          {becomes
            ? [...becomes].map(([was, is]) => (was === is ? `${was} stays` : `${was} becomes ${is}`)).join(', ')
            : 'Choose two different tracks, both of picture or both of sound.'}
        </Text>
        {flip.error && <Problem message={flip.error.message} />}
      </Dialog>
    </>
  )
}

function TrackSelect({
  label,
  value,
  onChange,
  names,
}: {
  label: string
  value: string
  onChange: (name: string) => void
  names: readonly string[]
}): ReactElement {
  return (
    <NativeSelect.Root size="sm" width="7rem">
      <NativeSelect.Field aria-label={label} value={value} onChange={(event) => onChange(event.target.value)}>
        {names.map((name) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}
