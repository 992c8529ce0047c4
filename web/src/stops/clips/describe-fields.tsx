import { Field, Input, NativeSelect } from '@chakra-ui/react'
import type { FieldInfo } from '@ennick/contract'
import type { ReactElement } from 'react'

export function FieldChoice({
  label,
  fields,
  value,
  onChange,
}: {
  label: string
  fields: readonly FieldInfo[]
  value: string
  onChange: (value: string) => void
}): ReactElement {
  return (
    <Field.Root width="13rem" flexShrink="0">
      <Field.Label>{label}</Field.Label>
      <NativeSelect.Root>
        <NativeSelect.Field value={value} onChange={(event) => onChange(event.target.value)}>
          {fields.map((field) => (
            <option key={field.id} value={field.id}>
              {field.title}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Field.Root>
  )
}

export function ValueField({
  field,
  value,
  onChange,
}: {
  field: FieldInfo | undefined
  value: string
  onChange: (value: string) => void
}): ReactElement {
  if (field?.kind !== 'choice' && field?.kind !== 'flag')
    return (
      <Line
        label={`Value${field?.kind === 'date' ? ' (2026-11-04)' : field?.kind === 'timecode' ? ' (09:14:02:10)' : ''}`}
        value={value}
        onChange={onChange}
      />
    )
  return (
    <Field.Root>
      <Field.Label>Value</Field.Label>
      <NativeSelect.Root>
        <NativeSelect.Field value={value} onChange={(event) => onChange(event.target.value)}>
          <option value="">{field.kind === 'flag' ? 'no' : 'empty'}</option>
          {(field.kind === 'flag' ? ['yes'] : (field.choices ?? [])).map((choice) => (
            <option key={choice}>{choice}</option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Field.Root>
  )
}

export function Line({
  label,
  value,
  onChange,
  placeholder,
  isMono = false,
}: {
  label: string
  value: string
  onChange: (value: string) => void
  placeholder?: string
  isMono?: boolean
}): ReactElement {
  return (
    <Field.Root>
      <Field.Label>{label}</Field.Label>
      <Input
        fontFamily={isMono ? 'mono' : 'body'}
        value={value}
        placeholder={placeholder}
        onChange={(event) => onChange(event.target.value)}
      />
    </Field.Root>
  )
}

export function NumberLine({
  label,
  value,
  max,
  onChange,
}: {
  label: string
  value: number
  max: number
  onChange: (value: number) => void
}): ReactElement {
  return (
    <Field.Root width="11rem" flexShrink="0">
      <Field.Label>{label}</Field.Label>
      <Input
        type="number"
        min={1}
        max={max}
        value={value}
        onChange={(event) => onChange(Math.min(max, Math.max(1, Number(event.target.value) || 1)))}
      />
    </Field.Root>
  )
}
