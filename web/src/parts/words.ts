import { formatRate, formatTimecode, type Rate } from '@ennick/core'

/** Bytes in decimal units, as storage is sold: "1.24 GB". */
export function bytes(value: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB']
  let size = value
  let unit = 0
  while (size >= 1000 && unit < units.length - 1) {
    size /= 1000
    unit++
  }
  return `${unit === 0 ? size : size.toFixed(size < 10 ? 2 : size < 100 ? 1 : 0)} ${units[unit]}`
}

export { count } from '@ennick/core'

/** A time of day or date as a person at the same desk would say it, in ISO form. */
export function when(iso: string | null): string {
  if (iso === null) return 'never'
  const date = new Date(iso)
  const pad = (value: number): string => String(value).padStart(2, '0')
  const day = `${date.getFullYear()}-${pad(date.getMonth() + 1)}-${pad(date.getDate())}`
  return `${day} ${pad(date.getHours())}:${pad(date.getMinutes())}`
}

/** Time left, rounded so that it does not flicker. */
export function timeLeft(seconds: number | null): string {
  if (seconds === null) return 'measuring'
  if (seconds < 5) return 'a few seconds left'
  if (seconds < 90) return `${Math.ceil(seconds / 5) * 5} s left`
  if (seconds < 5400) return `${Math.ceil(seconds / 60)} min left`
  return `${(seconds / 3600).toFixed(1)} h left`
}

/** The same of a span that is no rest: "3.2 h". */
export const span = (seconds: number): string => timeLeft(seconds).replace(/ left$/, '')

/** A span of work in whole seconds or minutes. */
export const minutes = (value: number): string =>
  value === 0 ? 'none' : value < 1 ? `${Math.ceil(value * 60)} s` : `${Math.ceil(value)} min`

export const frameLabel = (frame: number, rate: Rate, drop: boolean): string =>
  formatTimecode(Math.round(frame), rate, drop)

export { formatRate }
