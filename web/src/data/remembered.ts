import { useCallback, useEffect, useLayoutEffect, useState } from 'react'
import { useLocation, useNavigate, useSearchParams } from 'react-router'
import { AddressUnderWay } from './address-under-way.ts'
import { pageUnderWay } from './page-under-way.ts'

/** One for all of the page. */
const underWay = new AddressUnderWay()
if (typeof window !== 'undefined') window.addEventListener('popstate', () => underWay.forget())

type Values = Readonly<Record<string, string | null>>

function withValues(search: string, values: Values): string {
  const wanted = new URLSearchParams(search)
  for (const [key, value] of Object.entries(values)) {
    if (value) wanted.set(key, value)
    else wanted.delete(key)
  }
  return wanted.toString()
}

/** The production and the stop of a page: what is chosen for one cut of a stop is chosen for the next as well. */
const stopOf = (path: string): string => path.split('/').slice(0, 4).join('/')

/**
 * Changes values of the address; empty ones are removed. Of a page that is being left for another stop nothing is
 * changed: neither would the other page be held up, nor get what was meant for this one. What is clicked while another
 * cut of the same stop is on its way is meant for that; what was typed before, and is handed on late, for none.
 */
export function useAddress({ isTyped = false } = {}): (values: Values) => void {
  const [params, setParams] = useSearchParams()
  const { pathname: own } = useLocation()
  const navigate = useNavigate()
  useEffect(() => underWay.arrived(params.toString()), [params])
  return useCallback(
    (values) => {
      const next = pageUnderWay() ?? window.location
      if (next.pathname !== own) {
        if (isTyped || stopOf(next.pathname) !== stopOf(own)) return
        // One step back leads to where the person was, whether the way there has ended or not.
        const replace = window.location.pathname === next.pathname
        navigate({ pathname: next.pathname, search: withValues(next.search, values) }, { replace })
        return
      }
      const wanted = withValues(underWay.base(own, window.location.search), values)
      underWay.start(own, wanted)
      setParams(new URLSearchParams(wanted), { replace: true })
    },
    [setParams, navigate, own, isTyped],
  )
}

/**
 * A value in the address, so that a reload and a shared link find the same place. Empty removes it.
 * @param isTyped whether it is handed on when typing rests
 */
export function useAddressValue(key: string, { isTyped = false } = {}): [string, (value: string | null) => void] {
  const [params] = useSearchParams()
  const change = useAddress({ isTyped })
  const set = useCallback((value: string | null) => change({ [key]: value }), [key, change])
  return [params.get(key) ?? '', set]
}

/**
 * What lies open over a page, by a value of the address. Escape takes it back also while it is on its way: what is
 * drawn listens itself, from when it is drawn.
 */
export function useOpened(key: string): [string, (value: string | null) => void] {
  const { pathname } = useLocation()
  const [value, set] = useAddressValue(key)
  useLayoutEffect(() => {
    if (value) return
    const listen = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape' || event.defaultPrevented) return
      if (!new URLSearchParams(underWay.base(pathname, window.location.search)).get(key)) return
      event.preventDefault()
      set(null)
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [value, key, pathname, set])
  return [value, set]
}

/** A choice that the browser keeps: which columns, whether a panel is open. */
export function useKept<T>(key: string, usual: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => {
    try {
      const text = localStorage.getItem(key)
      return text === null ? usual : (JSON.parse(text) as T)
    } catch {
      return usual
    }
  })
  const keep = useCallback(
    (next: T) => {
      localStorage.setItem(key, JSON.stringify(next))
      setValue(next)
    },
    [key],
  )
  return [value, keep]
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
