import { Input } from '@chakra-ui/react'
import { type ReactElement, useEffect, useRef, useState } from 'react'
import { Echoes } from './echoes.ts'
import { usePageKeys } from './keys.ts'

/** A text filter; "/" goes to it, Escape leaves it. It follows the address and writes to it when typing rests. */
export function FilterField({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange: (value: string) => void
}): ReactElement {
  const field = useRef<HTMLInputElement>(null)
  const [text, setText] = useState(value)
  const echoes = useRef(new Echoes())
  useEffect(() => {
    if (!echoes.current.isOwn(value)) setText(value)
  }, [value])
  useEffect(() => {
    if (text === value) return
    const timer = window.setTimeout(() => {
      echoes.current.send(text)
      onChange(text)
    }, 120)
    return () => window.clearTimeout(timer)
  }, [text, value, onChange])
  usePageKeys({ '/': () => field.current?.focus() })
  return (
    <Input
      ref={field}
      size="sm"
      width="17rem"
      bg="page"
      placeholder={`${label}  ( / )`}
      aria-label={label}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onKeyDown={(event) => event.key === 'Escape' && field.current?.blur()}
    />
  )
}
