import { chakra } from '@chakra-ui/react'
import type { FieldInfo } from '@ennick/contract'
import { type KeyboardEvent, type ReactElement, useEffect, useRef, useState } from 'react'

/** Where editing goes on when a cell is left. */
export type AfterEdit = 'below' | 'next' | 'before' | 'stop'

/**
 * A cell while it is edited. Enter keeps and goes down, Tab keeps and goes on, Escape leaves it as it was; leaving the
 * field keeps what is there.
 */
export function CellEditor({
  field,
  text,
  onEnd,
}: {
  field: FieldInfo
  text: string
  onEnd: (value: string | null, then: AfterEdit) => void
}): ReactElement {
  const [value, setValue] = useState(text)
  const input = useRef<HTMLInputElement & HTMLSelectElement>(null)
  const isOver = useRef(false)
  useEffect(() => {
    input.current?.focus()
    input.current?.select?.()
  }, [])
  const end = (kept: string | null, then: AfterEdit): void => {
    if (isOver.current) return
    isOver.current = true
    onEnd(kept, then)
  }
  const onKeyDown = (event: KeyboardEvent): void => {
    event.stopPropagation()
    if (event.key === 'Escape') end(null, 'stop')
    else if (event.key === 'Enter') end(value, 'below')
    else if (event.key === 'Tab') end(value, event.shiftKey ? 'before' : 'next')
    else return
    event.preventDefault()
  }
  const shared = {
    'aria-label': field.title,
    width: '100%',
    bg: 'page',
    px: '1',
    py: '1',
    borderWidth: '1px',
    borderColor: 'tide.solid',
    onKeyDown,
    onBlur: () => end(value, 'stop'),
    onClick: (event: { stopPropagation(): void }) => event.stopPropagation(),
  }
  if (field.kind === 'choice' || field.kind === 'flag') {
    const choices = field.kind === 'flag' ? ['yes'] : (field.choices ?? [])
    return (
      <chakra.select ref={input} value={value} onChange={(event) => setValue(event.target.value)} {...shared}>
        <option value="">{field.kind === 'flag' ? 'no' : ''}</option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </chakra.select>
    )
  }
  return <chakra.input ref={input} value={value} onChange={(event) => setValue(event.target.value)} {...shared} />
}
