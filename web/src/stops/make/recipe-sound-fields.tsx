import { Field, Input } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { Section } from '../../parts/sheet.tsx'
import { Tick } from '../../parts/tick.tsx'
import { Choice, Numeral, type RecipeFieldsProps, Row } from './field-parts.tsx'
import { channelWords, readChannels } from './recipe-words.ts'

/** How the sound is written and laid out. */
export function SoundFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const { tracks } = draft
  const change = (part: Partial<typeof tracks>): void => onChange({ tracks: { ...tracks, ...part } })
  return (
    <Section title="Sound">
      <Row>
        <Choice
          label="Sound"
          value={draft.sound}
          options={[
            ['as source', 'PCM, as deep as the original'],
            ['pcm 16', 'PCM 16 bit'],
            ['pcm 24', 'PCM 24 bit'],
            ['compressed', 'compressed, for listening'],
          ]}
          onChange={(sound) => onChange({ sound })}
        />
        <Choice
          label="Layout"
          value={tracks.layout}
          options={[
            ['as source', 'as in the original'],
            ['mono', 'every channel a track'],
            ['stereo', 'two channels a track'],
          ]}
          onChange={(layout) => change({ layout })}
        />
      </Row>
      <Tick
        label="With the recording where a clip was synced with one: the tracks of the sync, as long as the picture"
        isOn={draft.syncedSound ?? false}
        onChange={(syncedSound) => onChange({ syncedSound })}
      />
      <Row>
        <Channels keep={tracks.keep} onChange={(keep) => change({ keep })} />
        <Numeral
          label="Pad with silence to channels"
          value={tracks.atLeast}
          onChange={(atLeast) => change({ atLeast })}
        />
      </Row>
    </Section>
  )
}

function Channels({
  keep,
  onChange,
}: {
  keep: readonly number[] | null
  onChange: (keep: number[] | null) => void
}): ReactElement {
  const [text, setText] = useState(channelWords(keep))
  const isWrong = readChannels(text) === undefined
  return (
    <Field.Root invalid={isWrong}>
      <Field.Label>Channels kept: all, or such as 1, 2, 5-8</Field.Label>
      <Input
        size="sm"
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          const read = readChannels(event.target.value)
          if (read !== undefined) onChange(read)
        }}
      />
      <Field.ErrorText>Numbers from 1 to 64, with commas between them.</Field.ErrorText>
    </Field.Root>
  )
}
