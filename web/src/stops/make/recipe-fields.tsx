import { Box, Stack } from '@chakra-ui/react'
import { burnInPlaces, recipePurposes } from '@ennick/core'
import type { ReactElement } from 'react'
import { Section } from '../../parts/sheet.tsx'
import { Tick } from '../../parts/tick.tsx'
import { Choice, Numeral, type RecipeFieldsProps, Row, Text } from './field-parts.tsx'
import { NameFields } from './recipe-name-fields.tsx'
import { PictureFields } from './recipe-picture-fields.tsx'
import { SoundFields } from './recipe-sound-fields.tsx'

/** Everything that a recipe says. */
export function RecipeFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  return (
    <Box>
      <Section title="What for">
        <Stack gap="3">
          <Text label="Name" value={draft.name} onChange={(name) => onChange({ name })} />
          <Text label="What it is for, in a sentence" value={draft.about} onChange={(about) => onChange({ about })} />
          <Choice
            label="Purpose"
            value={draft.purpose}
            options={recipePurposes.map((purpose) => [purpose, purpose])}
            onChange={(purpose) => onChange({ purpose })}
          />
        </Stack>
      </Section>
      <PictureFields draft={draft} onChange={onChange} />
      <BurnInFields draft={draft} onChange={onChange} />
      <SoundFields draft={draft} onChange={onChange} />
      <NameFields draft={draft} onChange={onChange} />
    </Box>
  )
}

const usualBurnIn = {
  timecode: 'bottom right',
  text: { words: '{name}', place: 'bottom left' },
  heightPercent: 4,
  boxPercent: 50,
} as const

function BurnInFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const { burnIn } = draft
  const places = burnInPlaces.map((place) => [place, place] as const)
  return (
    <Section title="Burn-in">
      <Tick
        label="Write into the picture"
        isOn={burnIn !== null}
        onChange={(isOn) => onChange({ burnIn: isOn ? usualBurnIn : null })}
      />
      {burnIn && (
        <>
          <Row>
            <Choice
              label="Timecode"
              value={burnIn.timecode ?? ''}
              options={[['', 'none'], ...places]}
              onChange={(place) => onChange({ burnIn: { ...burnIn, timecode: place === '' ? null : place } })}
            />
            <Choice
              label="Text"
              value={burnIn.text?.place ?? ''}
              options={[['', 'none'], ...places]}
              onChange={(place) =>
                onChange({
                  burnIn: { ...burnIn, text: place === '' ? null : { words: burnIn.text?.words ?? '{name}', place } },
                })
              }
            />
          </Row>
          {burnIn.text && (
            <Text
              label="Words: {name}, {reel}, {scene}, {take} and {production} are filled in"
              value={burnIn.text.words}
              onChange={(words) => burnIn.text && onChange({ burnIn: { ...burnIn, text: { ...burnIn.text, words } } })}
            />
          )}
          <Row>
            <Numeral
              label="Height, % of the picture"
              value={burnIn.heightPercent}
              onChange={(heightPercent) => onChange({ burnIn: { ...burnIn, heightPercent } })}
            />
            <Numeral
              label="Box behind it, % opaque"
              value={burnIn.boxPercent}
              onChange={(boxPercent) => onChange({ burnIn: { ...burnIn, boxPercent } })}
            />
          </Row>
        </>
      )}
    </Section>
  )
}
