import { Field, NativeSelect, Table, Text, VisuallyHidden } from '@chakra-ui/react'
import type { RecipeDraft } from '@ennick/contract'
import { type ReactElement, useDeferredValue, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { Slider } from '../../parts/slider.tsx'
import { Wipe } from './wipe.tsx'

const restMilliseconds = 400

/** Clips that a frame can be taken from. */
const moving = {
  all: [
    { field: 'presence', operator: 'is' as const, value: 'here' },
    { field: 'kind', operator: 'is' as const, value: 'picture' },
  ],
}

/** A real frame of a clip before and after the recipe, under a line that can be drawn across. */
export function RecipePreview({ draft }: { draft: RecipeDraft }): ReactElement {
  const params = { productionId: useProduction().id }
  const clips = useRead('searchClips', { params, body: { condition: moving, limit: 200 } })
  const [chosen, setChosen] = useState('')
  const [atPercent, setAtPercent] = useState(50)
  const preview = useChange('previewRecipe')
  const clipId = chosen || (clips.data?.rows[0]?.id ?? '')
  // Name and sentence change nothing that is seen.
  const seen = JSON.stringify({ ...draft, name: 'draft', about: 'draft' })
  const at = useDeferredValue(atPercent)
  const { mutate } = preview
  useEffect(() => {
    if (!clipId) return
    const timer = window.setTimeout(
      () => mutate({ params: { clipId }, body: { recipe: JSON.parse(seen), atPercent: at } }),
      restMilliseconds,
    )
    return () => window.clearTimeout(timer)
  }, [clipId, seen, at, mutate])
  if (clips.isPending) return <Loading what="the clips" />
  if (!clipId) return <Text color="quiet">No clip is here to take a frame from.</Text>
  const shown = preview.data
  return (
    <Section title="One frame of it">
      <Field.Root mb="3">
        <Field.Label>Clip</Field.Label>
        <NativeSelect.Root size="sm">
          <NativeSelect.Field value={clipId} onChange={(event) => setChosen(event.target.value)}>
            {clips.data?.rows.map((clip) => (
              <option key={clip.id} value={clip.id}>
                {clip.title}, {clip.width} × {clip.height}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Field.Root>
      {preview.error && <Problem message={preview.error.message} />}
      {!shown && preview.isPending && <Loading what="the frame" />}
      {shown && <Wipe before={shown.before} after={shown.after} isOld={preview.isPending} />}
      <Slider label="Place in the clip" low="start" high="end" value={atPercent} onChange={setAtPercent} />
      {shown && (
        <Table.Root size="sm" mt="3">
          <Table.Header>
            <Table.Row bg="transparent">
              <Table.ColumnHeader>
                <VisuallyHidden>What</VisuallyHidden>
              </Table.ColumnHeader>
              <Table.ColumnHeader color="quiet">Original</Table.ColumnHeader>
              <Table.ColumnHeader color="quiet">Made</Table.ColumnHeader>
            </Table.Row>
          </Table.Header>
          <Table.Body>
            {shown.facts.map(({ what, original, made }) => (
              <Table.Row key={what} bg="transparent">
                <Table.Cell color="quiet">{what}</Table.Cell>
                <Table.Cell>{original}</Table.Cell>
                <Table.Cell fontWeight={original === made ? 'normal' : 'semibold'} overflowWrap="anywhere">
                  {made}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      )}
    </Section>
  )
}
