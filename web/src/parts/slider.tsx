import { Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'

/** A number from 0 to 100 between two words. */
export function Slider({
  label,
  low,
  high,
  value,
  onChange,
}: {
  label: string
  low: string
  high: string
  value: number
  onChange: (value: number) => void
}): ReactElement {
  return (
    <label
      style={{
        display: 'grid',
        gridTemplateColumns: '9rem 3.5rem 1fr 3.5rem',
        gap: '0.5rem',
        alignItems: 'center',
        fontSize: '0.9rem',
      }}
    >
      <span>{label}</span>
      <Text as="span" color="quiet" textAlign="end">
        {low}
      </Text>
      <input type="range" min={0} max={100} value={value} onChange={(event) => onChange(Number(event.target.value))} />
      <Text as="span" color="quiet">
        {high}
      </Text>
    </label>
  )
}
