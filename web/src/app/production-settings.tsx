import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import { commonRates, formatRate, sameRate } from '@ennick/core'
import { type ReactElement, useEffect, useState } from 'react'
import { useChange, useRead } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { DigitsField } from '../parts/digits-field.tsx'
import { FolderPicker } from '../parts/folder-picker.tsx'
import { Loading, Problem } from '../parts/notices.tsx'
import { Section } from '../parts/sheet.tsx'
import { bytes, count } from '../parts/words.ts'
import { MadeListing } from './made-listing.tsx'
import { useProduction } from './production.tsx'

/** Where proxies and transcodes of the production go, and how much room there is. */
export function MadePlaceSetting(): ReactElement {
  const params = { productionId: useProduction().id }
  const place = useRead('readMadePlace', { params })
  const [isChoosing, setChoosing] = useState(false)
  const [isLooking, setLooking] = useState(false)
  const [folder, setFolder] = useState<string | null>(null)
  const change = useChange('changeMadePlace', () => setChoosing(false))
  return (
    <Section title="Where proxies and transcodes go">
      {place.isPending && <Loading what="the place" />}
      {place.error && <Problem message={place.error.message} />}
      {place.data && (
        <Box data-testid="made-place">
          <Text fontFamily="mono" overflowWrap="anywhere">
            {place.data.path}
          </Text>
          <Text color="quiet">
            {place.data.isHere ? '' : 'It is not there now. '}
            {place.data.files === 0
              ? 'Nothing was made yet'
              : `${count(place.data.files, 'file')}, ${bytes(place.data.bytes)}`}
            {place.data.freeBytes !== null && ` · ${bytes(place.data.freeBytes)} free`}
          </Text>
          <HStack mt="2">
            <Button size="sm" variant="outline" onClick={() => setLooking(true)}>
              Look into it…
            </Button>
            <Button size="sm" variant="outline" onClick={() => setChoosing(true)}>
              Have them go elsewhere…
            </Button>
          </HStack>
          <MadeListing isOpen={isLooking} onClose={() => setLooking(false)} />
        </Box>
      )}
      <Dialog
        title="Where should proxies and transcodes go?"
        isOpen={isChoosing}
        onClose={() => setChoosing(false)}
        footer={
          <Button
            disabled={folder === null}
            loading={change.isPending}
            onClick={() => folder !== null && change.mutate({ params, body: { folder } })}
          >
            Have them go there
          </Button>
        }
      >
        <Stack gap="3">
          <Text>
            {place.data?.files
              ? 'Ennick moves no files. Move the folder above with all that is in it to where you want it, ' +
                'then choose it here: it is known by its marker.'
              : 'A folder of the production’s own is made in the one that you choose. Nothing else in it is touched.'}
          </Text>
          <FolderPicker onChoose={setFolder} />
          {change.error && <Problem message={change.error.message} />}
        </Stack>
      </Dialog>
    </Section>
  )
}

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
