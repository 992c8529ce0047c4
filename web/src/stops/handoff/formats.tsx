import { Box, Button, chakra, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { WrittenFormat } from '@ennick/contract'
import { cutFormats, formatFeatures, nameSome, type Target, type WriteOptions } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useSteadyRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** What each format will say of the cut and what it will not, before anything is handed off. */
export function Formats({
  cutId,
  options,
  onOptions,
}: {
  cutId: string
  options: WriteOptions
  onOptions: (options: WriteOptions) => void
}): ReactElement {
  const formats = useSteadyRead('readFormats', { params: { cutId }, query: options })
  const { target } = useProduction()
  const [isTable, setTable] = useState(false)
  return (
    <Section
      title="Formats, each read again after it is written"
      action={
        <Button size="xs" variant="ghost" onClick={() => setTable(true)}>
          What formats can carry
        </Button>
      }
    >
      <HStack gap="4" mb="3" wrap="wrap">
        <Option
          label="Reels in the EDL"
          value={options.edlReels ?? 'whole'}
          values={['whole', 'eight characters']}
          onChange={(value) => onOptions({ ...options, edlReels: value as 'whole' | 'eight characters' })}
        />
        <Option
          label="Timeline XML"
          value={String(options.xmemlVersion ?? 5)}
          values={['5', '4']}
          words={{ 5: 'version 5', 4: 'version 4' }}
          onChange={(value) => onOptions({ ...options, xmemlVersion: value === '4' ? 4 : 5 })}
        />
      </HStack>
      {formats.isPending && <Text color="quiet">Writing each format, and reading it again…</Text>}
      {formats.error && <Problem message={formats.error.message} />}
      {formats.data?.map((format) => (
        <FormatLine key={format.format} format={format} target={target} />
      ))}
      <FormatTable isOpen={isTable} onClose={() => setTable(false)} />
    </Section>
  )
}

function FormatLine({ format, target }: { format: WrittenFormat; target: Target | null }): ReactElement {
  const [isOpen, setOpen] = useState(false)
  const lost = format.losses.filter(({ carried }) => carried === 'no')
  const state = format.reason !== null ? 'refused' : lost.length ? 'needs a look' : 'proven'
  const details = format.losses.length + format.replaced.length
  return (
    <Box borderBottomWidth="1px" borderColor="rule" py="1.5" data-testid={`format-${format.format}`}>
      <HStack gap="5" align="baseline">
        <Box width="9.5rem" flexShrink="0">
          <StateWord word={state} />
        </Box>
        <Text width="12rem" flexShrink="0" fontWeight="semibold">
          {format.name}
          {target && target.lists.length > 0 && (
            <Text as="span" display="block" fontWeight="normal" color="quiet" fontSize="0.85rem">
              {target.lists.includes(format.format) ? 'read by' : 'not read by'} {target.name}
            </Text>
          )}
        </Text>
        <Text flex="1" minWidth="0" overflowWrap="anywhere">
          {format.reason ?? (lost.length ? sentence(lost) : 'Says all of the cut, to the frame.')}
        </Text>
        {details > 0 && format.reason === null && (
          <Button size="xs" variant="ghost" onClick={() => setOpen(!isOpen)} aria-expanded={isOpen}>
            {isOpen ? 'Less' : `${count(details, 'remark')}`}
          </Button>
        )}
      </HStack>
      {isOpen && (
        <Box pl="9.5rem" pt="1">
          {format.losses.map(({ name, carried, becomes, events }) => (
            <Text key={name} py="0.5">
              <b>{name}</b> ({carried === 'no' ? 'not carried' : carried}): {becomes}{' '}
              {events.length > 0 && (
                <Box as="span" color="quiet" fontFamily="mono" fontSize="0.85rem">
                  {nameSome(events, 12)}
                </Box>
              )}
            </Text>
          ))}
          {format.replaced.slice(0, 40).map(({ what, from, to }) => (
            <Text key={`${what} ${from}`} py="0.5">
              {what}{' '}
              <Box as="span" fontFamily="mono" fontSize="0.88rem">
                {from} → {to}
              </Box>
            </Text>
          ))}
          {format.replaced.length > 40 && <Text color="quiet">and {format.replaced.length - 40} more</Text>}
        </Box>
      )}
    </Box>
  )
}

const sentence = (lost: WrittenFormat['losses']): string =>
  `Does not say: ${lost.map(({ name }) => name.charAt(0).toLowerCase() + name.slice(1)).join('; ')}.`

function Option({
  label,
  value,
  values,
  words = {},
  onChange,
}: {
  label: string
  value: string
  values: readonly string[]
  words?: Readonly<Record<string, string>>
  onChange: (value: string) => void
}): ReactElement {
  return (
    <HStack gap="2">
      <Text color="quiet">{label}</Text>
      <NativeSelect.Root size="sm" width="10.5rem">
        <NativeSelect.Field
          aria-label={label}
          bg="page"
          value={value}
          onChange={(event) => onChange(event.target.value)}
        >
          {values.map((each) => (
            <option key={each} value={each}>
              {words[each] ?? each}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </HStack>
  )
}

/** The one table by which writers, handoffs and this page go. */
function FormatTable({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }): ReactElement {
  return (
    <Dialog title="What formats can carry" isOpen={isOpen} onClose={onClose} size="xl">
      <chakra.table width="100%" mb="4" fontSize="0.9rem">
        <thead>
          <tr>
            <chakra.th textAlign="left" py="1.5" pr="3">
              Of a cut
            </chakra.th>
            {cutFormats.map(({ id, name }) => (
              <chakra.th key={id} textAlign="left" py="1.5" pr="3">
                {name}
              </chakra.th>
            ))}
          </tr>
        </thead>
        <tbody>
          {formatFeatures.map((feature) => (
            <chakra.tr key={feature.id} borderTopWidth="1px" borderColor="rule" verticalAlign="top">
              <chakra.td py="1.5" pr="3" fontWeight="semibold">
                {feature.name}
              </chakra.td>
              {cutFormats.map(({ id }) => (
                <chakra.td key={id} py="1.5" pr="3">
                  {feature.carries[id]}
                  <Text color="quiet" fontSize="0.82rem">
                    {feature.becomes[id]}
                  </Text>
                </chakra.td>
              ))}
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </Dialog>
  )
}
