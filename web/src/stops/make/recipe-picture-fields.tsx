import { Box } from '@chakra-ui/react'
import type { RecipeDraft } from '@ennick/contract'
import { codecTraits, containerLabel, qualitySteps, recipeCodecs, recipeContainers, usualQuality } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useRead } from '../../data/queries.ts'
import { Section } from '../../parts/sheet.tsx'
import { Tick } from '../../parts/tick.tsx'
import { Choice, Numeral, type RecipeFieldsProps, Row, Text } from './field-parts.tsx'
import { sizeWords } from './recipe-words.ts'

const sizes: readonly RecipeDraft['size'][] = [
  { kind: 'source' },
  { kind: 'divided', by: 2 },
  { kind: 'divided', by: 4 },
  { kind: 'divided', by: 8 },
  { kind: 'nearest' },
  { kind: 'production' },
]

/** Codec, quality, size and shape. */
export function PictureFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const production = useProduction()
  const luts = useRead('listLuts', {}).data ?? []
  const [codecs, setCodecs] = useState(draft.skipCodecs.join(', '))
  return (
    <Section title="Picture">
      <CodecFields draft={draft} onChange={onChange} />
      <SizeFields draft={draft} onChange={onChange} />
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
      <Tick
        label="Leave originals that play well here as they are"
        isOn={draft.skipPlaying !== null}
        onChange={(isOn) => onChange({ skipPlaying: isOn ? 2 : null })}
      />
      {draft.skipPlaying !== null && (
        <Box ml="6" mb="2" width="14rem">
          <Numeral
            label="How many of one play at once"
            value={draft.skipPlaying}
            onChange={(value) => onChange({ skipPlaying: Math.min(64, Math.max(1, value)) })}
          />
        </Box>
      )}
      <Text
        label="Leave originals of these codecs as they are"
        value={codecs}
        placeholder="as the Codec column says them: ProRes, MJPEG"
        onChange={(text) => {
          setCodecs(text)
          onChange({
            skipCodecs: text
              .split(',')
              .map((word) => word.trim())
              .filter(Boolean),
          })
        }}
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
  )
}

/** What no worker here can encode is marked before it is chosen, and not found out in the queue. */
function CodecFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const workers = useRead('listWorkers', {}).data?.filter(({ state }) => state === 'here') ?? []
  const able = new Set(workers.flatMap(({ codecs }) => codecs))
  const note = (codec: RecipeDraft['codec']): string =>
    workers.length === 0 || able.has(codec) ? '' : ' (no worker here makes it)'
  const { quality } = draft
  return (
    <>
      <Row>
        <Choice
          label="Codec"
          value={draft.codec}
          options={recipeCodecs.map((codec) => [codec, `${codecTraits[codec].label}${note(codec)}`])}
          onChange={(codec) => onChange({ codec, ...(!codecTraits[codec].takesQuality && { quality: usualQuality }) })}
        />
        <Choice
          label="Container"
          value={draft.container}
          options={recipeContainers.map((container) => [container, containerLabel[container]])}
          onChange={(container) => onChange({ container })}
        />
      </Row>
      {codecTraits[draft.codec].takesQuality && (
        <Row>
          <Choice
            label="Quality"
            value={quality.kind === 'rate' ? 'rate' : quality.step}
            options={[...qualitySteps.map((step) => [step, step] as const), ['rate', 'by data rate']]}
            onChange={(next) =>
              onChange({
                quality: next === 'rate' ? { kind: 'rate', kilobits: 8000 } : { kind: 'step', step: next },
              })
            }
          />
          {quality.kind === 'rate' ? (
            <Numeral
              label="Data rate, kbit/s"
              value={quality.kilobits}
              onChange={(kilobits) => onChange({ quality: { kind: 'rate', kilobits } })}
            />
          ) : (
            <Box />
          )}
        </Row>
      )}
    </>
  )
}

function SizeFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const production = useProduction()
  const { size } = draft
  // The shape that is kept: what is typed digit by digit would lose it.
  const [shape, setShape] = useState<{ width: number; height: number } | null>(
    size.kind === 'raster' ? size : production,
  )
  const chosen =
    size.kind === 'raster' ? 'raster' : String(sizes.findIndex((each) => JSON.stringify(each) === JSON.stringify(size)))
  const even = (value: number): number => 2 * Math.round(value / 2)
  const setRaster = (part: { width: number } | { height: number }): void => {
    if (size.kind !== 'raster') return
    const other =
      shape &&
      ('width' in part
        ? { height: even((part.width * shape.height) / shape.width) }
        : { width: even((part.height * shape.width) / shape.height) })
    onChange({ size: { ...size, ...part, ...other } })
  }
  return (
    <>
      <Row>
        <Choice
          label="Size"
          value={chosen}
          options={[
            ...sizes.map((each, index) => [String(index), sizeWords(each)] as const),
            ['raster', 'a raster of its own'],
          ]}
          onChange={(next) => {
            if (next !== 'raster') return onChange({ size: sizes[Number(next)] ?? size })
            const { width, height } = production
            setShape({ width, height })
            onChange({ size: { kind: 'raster', width, height } })
          }}
        />
        {size.kind === 'raster' ? (
          <Row isTight>
            <Numeral label="Width" value={size.width} onChange={(width) => setRaster({ width })} />
            <Numeral label="Height" value={size.height} onChange={(height) => setRaster({ height })} />
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
      {size.kind === 'raster' && (
        <Box mb="3">
          <Tick
            label="Keep its shape: the other side follows"
            isOn={shape !== null}
            onChange={(isOn) => setShape(isOn && size.width && size.height ? size : null)}
          />
        </Box>
      )}
    </>
  )
}
