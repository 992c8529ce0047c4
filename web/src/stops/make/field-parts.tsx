import { Field, Grid, Input, NativeSelect } from '@chakra-ui/react'
import type { RecipeDraft } from '@ennick/contract'
import type { ReactElement, ReactNode } from 'react'

export interface RecipeFieldsProps {
  readonly draft: RecipeDraft
  readonly onChange: (part: Partial<RecipeDraft>) => void
}

export const Row = ({ children, isTight = false }: { children: ReactNode; isTight?: boolean }): ReactElement => (
  <Grid templateColumns="1fr 1fr" gap={isTight ? '2' : '4'} mb={isTight ? '0' : '3'}>
    {children}
  </Grid>
)

export function Text({
  label,
  value,
  placeholder,
  onChange,
}: {
  label: string
  value: string
  placeholder?: string
  onChange: (value: string) => void
}): ReactElement {
  return (
    <Field.Root>
      <Field.Label>{label}</Field.Label>
      <Input size="sm" value={value} placeholder={placeholder} onChange={(event) => onChange(event.target.value)} />
    </Field.Root>
  )
}

export function Numeral({
  label,
  value,
  onChange,
}: {
  label: string
  value: number
  onChange: (value: number) => void
}): ReactElement {
  return (
    <Field.Root>
      <Field.Label>{label}</Field.Label>
      <Input
        size="sm"
        type="number"
        value={value}
        onChange={(event) => onChange(Math.max(0, Math.round(Number(event.target.value))))}
      />
    </Field.Root>
  )
}

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  onChange: (value: T) => void
}): ReactElement {
  return (
    <Field.Root>
      <Field.Label>{label}</Field.Label>
      <NativeSelect.Root size="sm">
        <NativeSelect.Field value={value} onChange={(event) => onChange(event.target.value as T)}>
          {options.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Field.Root>
  )
}
