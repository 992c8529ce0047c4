import type { ReactElement } from 'react'

/** A box to tick, with what it says. */
export function Tick({
  label,
  isOn,
  onChange,
}: {
  label: string
  isOn: boolean
  onChange: (isOn: boolean) => void
}): ReactElement {
  return (
    <label style={{ display: 'flex', gap: '0.5rem', padding: '0.15rem 0', alignItems: 'baseline' }}>
      <input type="checkbox" checked={isOn} onChange={(event) => onChange(event.target.checked)} />
      {label}
    </label>
  )
}
