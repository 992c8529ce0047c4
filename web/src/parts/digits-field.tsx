import { Field, Input } from '@chakra-ui/react'
import type { ReactElement } from 'react'

/** A field for a whole number, as it is typed. */
export function DigitsField(props: {
  label: string
  value: string
  width: string
  placeholder?: string
  onChange: (typed: string) => void
}): ReactElement {
  return (
    <Field.Root width={props.width}>
      <Field.Label>{props.label}</Field.Label>
      <Input
        size="sm"
        bg="page"
        inputMode="numeric"
        placeholder={props.placeholder}
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
      />
    </Field.Root>
  )
}
