import { Button, Field, HStack, Input, NativeSelect, Stack } from '@chakra-ui/react'
import type { Production } from '@ennick/contract'
import { commonRates, formatRate } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { Problem } from '../parts/notices.tsx'

const rasters = ['1280 × 720', '1920 × 1080', '2048 × 1080', '3840 × 2160', '4096 × 2160']

/** Makes an empty production: its name, the rate of its timecode, the raster of its finish. */
export function ProductionForm({ onDone }: { onDone: (production: Production) => void }): ReactElement {
  const [name, setName] = useState('')
  const [rateIndex, setRateIndex] = useState(2)
  const [raster, setRaster] = useState('1920 × 1080')
  const add = useChange('addProduction', onDone)
  const [width, height] = raster.split(' × ').map(Number) as [number, number]
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        const rate = commonRates[rateIndex]
        if (rate) add.mutate({ body: { name, rate, width, height } })
      }}
    >
      <Stack gap="4">
        <Field.Root required>
          <Field.Label>Name</Field.Label>
          <Input value={name} onChange={(event) => setName(event.target.value)} bg="page" autoFocus />
        </Field.Root>
        <HStack gap="4" align="start">
          <Field.Root>
            <Field.Label>Frames a second</Field.Label>
            <NativeSelect.Root>
              <NativeSelect.Field
                value={rateIndex}
                onChange={(event) => setRateIndex(Number(event.target.value))}
                bg="page"
              >
                {commonRates.map((rate, index) => (
                  <option key={formatRate(rate)} value={index}>
                    {formatRate(rate)}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
          <Field.Root>
            <Field.Label>Raster of the finish</Field.Label>
            <NativeSelect.Root>
              <NativeSelect.Field value={raster} onChange={(event) => setRaster(event.target.value)} bg="page">
                {rasters.map((value) => (
                  <option key={value}>{value}</option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
        </HStack>
        {add.error && <Problem message={add.error.message} />}
        <Button type="submit" alignSelf="start" loading={add.isPending} disabled={name.trim() === ''}>
          Make the production
        </Button>
      </Stack>
    </form>
  )
}
