import { useCallback, useState } from 'react'
import { useSearchParams } from 'react-router'

/** A value in the address, so that a reload and a shared link find the same place. Empty removes it. */
export function useAddressValue(key: string): [string, (value: string | null) => void] {
  const [params, setParams] = useSearchParams()
  const set = useCallback(
    (value: string | null) => {
      setParams(
        (before) => {
          const next = new URLSearchParams(before)
          if (value) next.set(key, value)
          else next.delete(key)
          return next
        },
        { replace: true },
      )
    },
    [key, setParams],
  )
  return [params.get(key) ?? '', set]
}

/** A set of ids that lasts as long as the browser's tab: what is marked in a table. */
export function useMarks(key: string): [ReadonlySet<string>, (marks: ReadonlySet<string>) => void] {
  const [marks, setMarks] = useState<ReadonlySet<string>>(() => readMarks(key))
  const set = useCallback(
    (next: ReadonlySet<string>) => {
      sessionStorage.setItem(key, JSON.stringify([...next]))
      setMarks(next)
    },
    [key],
  )
  return [marks, set]
}

function readMarks(key: string): ReadonlySet<string> {
  try {
    const list: unknown = JSON.parse(sessionStorage.getItem(key) ?? '[]')
    return new Set(Array.isArray(list) ? list.filter((item): item is string => typeof item === 'string') : [])
  } catch {
    return new Set()
  }
}
