import { Box, Button, Field, HStack, Input, NativeSelect, Text } from '@chakra-ui/react'
import { commonRates, formatRate, sameRate } from '@ennick/core'
import { type ReactElement, useEffect, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { DigitsField } from '../parts/digits-field.tsx'
import { Problem } from '../parts/notices.tsx'
import { Section } from '../parts/sheet.tsx'
import { useProduction } from './production.tsx'

const rates = (own: { numerator: number; denominator: number }) =>
  commonRates.some((rate) => sameRate(rate, own)) ? commonRates : [...commonRates, own]

/** Name, rate and raster of the production, to be corrected: what that changes is said before. */
export function ProductionFormat(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const [name, setName] = useState(production.name)
  const [rate, setRate] = useState(production.rate)
  const [width, setWidth] = useState(String(production.width))
  const [height, setHeight] = useState(String(production.height))
  const preview = useChange('changeProduction')
  const apply = useChange('changeProduction')
  const wanted = { name: name.trim(), rate, width: Number(width), height: Number(height) }
  const isPossible = wanted.name !== '' && [wanted.width, wanted.height].every((side) => side >= 16 && side <= 16_384)
  const isNew =
    wanted.name !== production.name ||
    !sameRate(rate, production.rate) ||
    wanted.width !== production.width ||
    wanted.height !== production.height
  const asked = JSON.stringify(wanted)
  const { mutate, reset } = preview
  useEffect(() => {
    if (isNew && isPossible)
      mutate({ params: { productionId: production.id }, body: { ...JSON.parse(asked), apply: false } })
    else reset()
  }, [isNew, isPossible, asked, production.id, mutate, reset])
  return (
    <Section title="What the production is">
      <HStack gap="4" align="end" wrap="wrap">
        <Field.Root width="16rem">
          <Field.Label>Name</Field.Label>
          <Input size="sm" bg="page" maxLength={120} value={name} onChange={(event) => setName(event.target.value)} />
        </Field.Root>
        <Field.Root width="9rem">
          <Field.Label>Frames a second</Field.Label>
          <NativeSelect.Root size="sm">
            <NativeSelect.Field
              bg="page"
              value={formatRate(rate)}
              onChange={(event) =>
                setRate(rates(production.rate).find((each) => formatRate(each) === event.target.value) ?? rate)
              }
            >
              {rates(production.rate).map((each) => (
                <option key={formatRate(each)}>{formatRate(each)}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </Field.Root>
        <DigitsField width="6rem" label="Width" value={width} onChange={setWidth} />
        <DigitsField width="6rem" label="Height" value={height} onChange={setHeight} />
      </HStack>
      {isNew && preview.data && (
        <Box mt="3" data-testid="production-changes">
          <Text fontWeight="semibold">What that changes</Text>
          {preview.data.changes.map((line) => (
            <Text key={line}>{line}</Text>
          ))}
          <Button
            size="sm"
            mt="2"
            loading={apply.isPending}
            onClick={() => apply.mutate({ params, body: { ...wanted, apply: true } })}
          >
            Correct the production
          </Button>
        </Box>
      )}
      {(preview.error ?? apply.error) && <Problem message={(preview.error ?? apply.error)?.message ?? ''} />}
    </Section>
  )
}
