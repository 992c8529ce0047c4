import { Box, Stack } from '@chakra-ui/react'
import type { RecipeDraft } from '@ennick/contract'
import { burnInPlaces, codecTraits, containerLabel, recipeCodecs, recipeContainers, recipePurposes } from '@ennick/core'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Section } from '../../parts/sheet.tsx'
import { Tick } from '../../parts/tick.tsx'
import { Choice, Numeral, type RecipeFieldsProps, Row, Text } from './field-parts.tsx'
import { NameFields } from './recipe-name-fields.tsx'
import { SoundFields } from './recipe-sound-fields.tsx'
import { sizeWords } from './recipe-words.ts'

const sizes: readonly RecipeDraft['size'][] = [
  { kind: 'source' },
  { kind: 'divided', by: 2 },
  { kind: 'divided', by: 4 },
  { kind: 'divided', by: 8 },
  { kind: 'production' },
]

/** Everything that a recipe says. */
export function RecipeFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const production = useProduction()
  const luts = useRead('listLuts', {}).data ?? []
  const isRaster = draft.size.kind === 'raster'
  const size = isRaster
    ? 'raster'
    : String(sizes.findIndex((each) => JSON.stringify(each) === JSON.stringify(draft.size)))
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
      <Section title="Picture">
        <Row>
          <Choice
            label="Codec"
            value={draft.codec}
            options={recipeCodecs.map((codec) => [codec, codecTraits[codec].label])}
            onChange={(codec) => onChange({ codec })}
          />
          <Choice
            label="Container"
            value={draft.container}
            options={recipeContainers.map((container) => [container, containerLabel[container]])}
            onChange={(container) => onChange({ container })}
          />
        </Row>
        <Row>
          <Choice
            label="Size"
            value={size}
            options={[
              ...sizes.map((each, index) => [String(index), sizeWords(each)] as const),
              ['raster', 'a raster of its own'],
            ]}
            onChange={(next) =>
              onChange({
                size:
                  next === 'raster'
                    ? { kind: 'raster', width: production.width, height: production.height }
                    : (sizes[Number(next)] ?? draft.size),
              })
            }
          />
          {draft.size.kind === 'raster' ? (
            <Row isTight>
              <Numeral
                label="Width"
                value={draft.size.width}
                onChange={(width) => draft.size.kind === 'raster' && onChange({ size: { ...draft.size, width } })}
              />
              <Numeral
                label="Height"
                value={draft.size.height}
                onChange={(height) => draft.size.kind === 'raster' && onChange({ size: { ...draft.size, height } })}
              />
            </Row>
          ) : (
            <Choice
              label="Pixel aspect"
              value={draft.pixels}
              options={[
                ['square', 'made square'],
                ['kept', 'kept'],
              ]}
              onChange={(pixels) => onChange({ pixels })}
            />
          )}
        </Row>
        <Row>
          <Choice
            label="Other shapes"
            value={draft.fit}
            options={[
              ['pad', 'fit (letterbox or pillarbox)'],
              ['crop', 'fill, cut off at the edges'],
              ['stretch', 'fill, distorted'],
            ]}
            onChange={(fit) => onChange({ fit })}
          />
          <Choice
            label="Scaling"
            value={draft.scaling}
            options={[
              ['quick', 'quick'],
              ['fine', 'fine, slower'],
            ]}
            onChange={(scaling) => onChange({ scaling })}
          />
        </Row>
        <Tick
          label="Leave originals that are no larger than the production as they are"
          isOn={draft.skipUpTo !== null}
          onChange={(isOn) =>
            onChange({ skipUpTo: isOn ? { width: production.width, height: production.height } : null })
          }
        />
        <Box mt="2">
          <Choice
            label="Viewing LUT of log pictures, unless their camera or clip has another"
            value={draft.viewingLut ?? ''}
            options={[['', 'none'], ...luts.map((lut) => [lut.id, lut.name] as const)]}
            onChange={(lut) => onChange({ viewingLut: lut === '' ? null : lut })}
          />
        </Box>
      </Section>
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
