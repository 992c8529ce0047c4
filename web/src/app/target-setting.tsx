import { Box, Button, Field, Flex, HStack, Input, NativeSelect, Stack, Text, Textarea } from '@chakra-ui/react'
import {
  codecTraits,
  containerLabel,
  cutFormats,
  recipeCodecs,
  recipeContainers,
  recipePurposes,
  recipeSounds,
  soundLabel,
  type Target,
  targetKinds,
} from '@ennick/core'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { DigitsField } from '../parts/digits-field.tsx'
import { Problem } from '../parts/notices.tsx'
import { Section } from '../parts/sheet.tsx'
import { Tick } from '../parts/tick.tsx'
import { useProduction } from './production.tsx'

/** The room that receives what is made, by its rules: recipes, names and lists are held against them. */
export function TargetSetting(): ReactElement {
  const production = useProduction()
  const [draft, setDraft] = useState<Target | null>(null)
  const keep = useChange('setTarget', () => setDraft(null))
  const set = (target: Target | null): void =>
    keep.mutate({ params: { productionId: production.id }, body: { target } })
  const { target } = production
  return (
    <Section title="Target: who receives what is made">
      {draft ? (
        <TargetForm
          target={draft}
          onChange={(part) => setDraft({ ...draft, ...part })}
          footer={
            <HStack mt="3">
              <Button size="sm" disabled={draft.name.trim() === ''} loading={keep.isPending} onClick={() => set(draft)}>
                Keep the target
              </Button>
              <Button size="sm" variant="ghost" onClick={() => setDraft(null)}>
                Cancel
              </Button>
            </HStack>
          }
        />
      ) : target ? (
        <Box data-testid="target">
          <Text fontWeight="semibold">{target.name}</Text>
          {targetLines(target).map((line) => (
            <Text key={line}>{line}</Text>
          ))}
          {target.bringIn && <Text color="quiet">How it is taken in: {target.bringIn}</Text>}
          <HStack mt="2">
            <Button size="sm" variant="outline" onClick={() => setDraft(target)}>
              Change…
            </Button>
            <Button size="sm" variant="ghost" loading={keep.isPending} onClick={() => set(null)}>
              Have none
            </Button>
          </HStack>
        </Box>
      ) : (
        <Box>
          <Text mb="2">
            None is set. With one, every recipe, name and list is held against what that room takes, and recipes are
            made to fit it. Begin with the one that is most like it:
          </Text>
          <HStack wrap="wrap">
            {targetKinds.map((kind) => (
              <Button key={kind.name} size="sm" variant="outline" onClick={() => setDraft(kind)}>
                {kind.name}…
              </Button>
            ))}
          </HStack>
        </Box>
      )}
      {keep.error && <Problem message={keep.error.message} />}
    </Section>
  )
}

/** What a target takes, in lines; nothing of what does not matter to it. */
function targetLines({ containers, codecs, sounds, lists, ...rest }: Target): string[] {
  const line = (title: string, words: readonly string[]): string[] =>
    words.length ? [`${title}: ${words.join(', ')}`] : []
  return [
    ...line('For', [rest.purpose]),
    ...line(
      'Containers',
      containers.map((each) => containerLabel[each]),
    ),
    ...line(
      'Codecs',
      codecs.map((each) => codecTraits[each].label),
    ),
    ...line('Sound', sounds.map(soundLabel)),
    ...line('Names', [
      ...(rest.longestName === null ? [] : [`${rest.longestName} characters at most`]),
      ...(rest.isPlainNames ? ['letters without accents, digits, _ and - alone'] : []),
    ]),
    ...line('Reels', rest.longestReel === null ? [] : [`${rest.longestReel} characters at most`]),
    ...line('Folders', rest.filesInFolder === null ? [] : [`numbered, ${rest.filesInFolder} files each at most`]),
    ...line(
      'Lists',
      cutFormats.filter(({ id }) => lists.includes(id)).map(({ name }) => name),
    ),
  ]
}

function TargetForm({
  target,
  onChange,
  footer,
}: {
  target: Target
  onChange: (part: Partial<Target>) => void
  footer: ReactNode
}): ReactElement {
  return (
    <Stack gap="3" maxWidth="52rem">
      <HStack gap="4" align="end">
        <Field.Root>
          <Field.Label>Name</Field.Label>
          <Input size="sm" bg="page" value={target.name} onChange={(event) => onChange({ name: event.target.value })} />
        </Field.Root>
        <Field.Root>
          <Field.Label>It takes files for</Field.Label>
          <NativeSelect.Root size="sm">
            <NativeSelect.Field
              bg="page"
              value={target.purpose}
              onChange={(event) => onChange({ purpose: event.target.value as Target['purpose'] })}
            >
              {recipePurposes.map((purpose) => (
                <option key={purpose}>{purpose}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </Field.Root>
      </HStack>
      <Text color="quiet" fontSize="0.9rem">
        Where nothing is ticked, everything is taken.
      </Text>
      <Ticks
        title="Containers"
        all={recipeContainers}
        chosen={target.containers}
        label={(each) => containerLabel[each]}
        onChange={(containers) => onChange({ containers })}
      />
      <Ticks
        title="Codecs"
        all={recipeCodecs}
        chosen={target.codecs}
        label={(each) => codecTraits[each].label}
        onChange={(codecs) => onChange({ codecs })}
      />
      <Ticks
        title="Sound"
        all={recipeSounds}
        chosen={target.sounds}
        label={soundLabel}
        onChange={(sounds) => onChange({ sounds })}
      />
      <Ticks
        title="Lists that it reads"
        all={cutFormats.map(({ id }) => id)}
        chosen={target.lists}
        label={(each) => cutFormats.find(({ id }) => id === each)?.name ?? each}
        onChange={(lists) => onChange({ lists })}
      />
      <HStack gap="4" align="end" wrap="wrap">
        {limits.map(([key, label]) => (
          <Limit key={key} label={label} value={target[key]} onChange={(value) => onChange({ [key]: value })} />
        ))}
        <Tick
          label="names of plain letters, digits, _ and - alone"
          isOn={target.isPlainNames}
          onChange={(isPlainNames) => onChange({ isPlainNames })}
        />
      </HStack>
      <Field.Root>
        <Field.Label>How people there take the files in</Field.Label>
        <Textarea
          rows={2}
          bg="page"
          maxLength={1000}
          value={target.bringIn}
          onChange={(event) => onChange({ bringIn: event.target.value })}
        />
      </Field.Root>
      {footer}
    </Stack>
  )
}

const limits = [
  ['longestName', 'Characters of a name'],
  ['longestReel', 'Characters of a reel'],
  ['filesInFolder', 'Files in a numbered folder'],
] as const

function Ticks<Word extends string>({
  title,
  all,
  chosen,
  label,
  onChange,
}: {
  title: string
  all: readonly Word[]
  chosen: readonly Word[]
  label: (word: Word) => string
  onChange: (words: readonly Word[]) => void
}): ReactElement {
  return (
    <Flex role="group" aria-label={title} align="baseline">
      <Text width="9rem" flexShrink="0" color="quiet" aria-hidden>
        {title}
      </Text>
      <HStack columnGap="4" rowGap="1" wrap="wrap">
        {all.map((word) => (
          <Tick
            key={word}
            label={label(word)}
            isOn={chosen.includes(word)}
            onChange={(isOn) => onChange(all.filter((each) => (each === word ? isOn : chosen.includes(each))))}
          />
        ))}
      </HStack>
    </Flex>
  )
}

/** A number, or nothing for no limit. */
function Limit(props: { label: string; value: number | null; onChange: (value: number | null) => void }): ReactElement {
  const read = (typed: string): number | null => {
    const digits = typed.replace(/\D/g, '').slice(0, 6)
    return digits === '' ? null : Number(digits)
  }
  return (
    <DigitsField
      label={props.label}
      width="12rem"
      placeholder="no limit"
      value={String(props.value ?? '')}
      onChange={(typed) => props.onChange(read(typed))}
    />
  )
}
