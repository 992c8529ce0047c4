import { Field, Grid, Input } from '@chakra-ui/react'
import type { BoxLabel } from '@ennick/contract'
import type { ReactElement } from 'react'

const words = [
  ['day', 'Shoot day', 'day 3, or 2026-11-04'],
  ['camera', 'Camera', 'A'],
  ['reel', 'Reel', 'A001'],
  ['unit', 'Unit', 'main, second, drone'],
] as const

/** What the label on a box says of everything in it. @param onChange told of the one word that was changed */
export function BoxFields({ box, onChange }: { box: BoxLabel; onChange: (box: BoxLabel) => void }): ReactElement {
  return (
    <Grid templateColumns="repeat(4, 1fr)" gap="3">
      {words.map(([field, title, example]) => (
        <Field.Root key={field}>
          <Field.Label>{title}</Field.Label>
          <Input
            size="sm"
            value={box[field] ?? ''}
            placeholder={example}
            onChange={(event) => onChange({ [field]: event.target.value })}
          />
        </Field.Root>
      ))}
    </Grid>
  )
}
