import type { Clip, FieldInfo } from '@ennick/contract'
import { isWell, type PairVerdict } from '@ennick/core'
import { type ReactElement, type ReactNode, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { ListPicture } from '../../parts/list-picture.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, formatRate } from '../../parts/words.ts'

export interface ShownColumn {
  readonly field: FieldInfo
  /** In rem. */
  readonly width: number
}

/**
 * How wide a column is before anybody drags it, in rem. The usual ones stand side by side in a window of 1280 points
 * beside a scrollbar of 17, and a timecode has room in every browser's drawing of its letters.
 */
export function usualWidth(field: FieldInfo): number {
  const own: Record<string, number> = {
    name: 8.5,
    reel: 4.1,
    day: 5.3,
    scene: 3.5,
    take: 3,
    notes: 12,
    fileName: 13,
    folder: 11,
    start: 7.1,
    duration: 7.1,
    rate: 3.2,
    raster: 5.9,
    codec: 4.3,
    proxy: 8,
    notice: 6.8,
    tracks: 11,
    presence: 6,
  }
  return own[field.id] ?? (field.kind === 'text' ? 6 : field.kind === 'number' || field.kind === 'rate' ? 4.6 : 5.6)
}

export const usualColumns = [
  'name',
  'reel',
  'day',
  'scene',
  'take',
  'start',
  'duration',
  'rate',
  'raster',
  'codec',
  'proxy',
  'notice',
]

const monoKinds = new Set(['number', 'bytes', 'rate', 'timecode', 'date'])
export const isMono = (field: FieldInfo): boolean =>
  monoKinds.has(field.kind) || ['reel', 'raster', 'take'].includes(field.id)
export const isRight = (field: FieldInfo): boolean =>
  ['number', 'bytes', 'rate'].includes(field.kind) || field.id === 'raster'

/** The value of a field as a person types it. */
export function textOfCell(clip: Clip, field: FieldInfo): string {
  if (field.id === 'name') return clip.title
  if (field.id === 'reel') return clip.reel ?? ''
  if (field.from === 'described') return clip.described[field.id] ?? ''
  const value = valueOfFile(clip, field.id)
  return value === null || value === undefined ? '' : String(value)
}

function valueOfFile(clip: Clip, id: string): string | number | null | undefined {
  switch (id) {
    case 'fileName':
      return clip.name
    case 'volume':
      return clip.volumeLabel
    case 'start':
      return clip.startTimecode
    case 'duration':
      return clip.duration
    case 'raster':
      return clip.width ? `${clip.width}×${clip.height}` : ''
    case 'rate':
      return clip.rate ? formatRate(clip.rate) : ''
    case 'layout':
      return clip.channels
    case 'size':
      return clip.sizeBytes
    default:
      return id in clip.facts ? clip.facts[id] : (clip[id as keyof Clip] as string | number | null | undefined)
  }
}

/**
 * A cell as it is shown.
 * @param underWay that a proxy of the clip is on its way, in a word
 */
export function cellOf(clip: Clip, field: FieldInfo, underWay: string | null = null): ReactNode {
  const text = textOfCell(clip, field)
  switch (field.id) {
    case 'name':
      return (
        <>
          <div className="clip-name" title={clip.title}>
            {clip.title}
          </div>
          <div className="clip-file" title={`${clip.volumeLabel}, ${clip.name}`}>
            {clip.presence !== 'here' && `${clip.presence} · `}
            {clip.volumeLabel} · {clip.name}
          </div>
        </>
      )
    case 'proxy':
      // What is well already stays so while another copy is made.
      return clip.proxy ? (
        <StateWord word={isWell(clip.proxy as PairVerdict) ? clip.proxy : (underWay ?? clip.proxy)} />
      ) : null
    case 'presence':
      return <StateWord word={clip.presence} />
    case 'size':
      return bytes(clip.sizeBytes)
    case 'dataRate':
      return clip.facts.dataRate ? `${(Number(clip.facts.dataRate) / 1e6).toFixed(1)} Mb/s` : ''
    case 'uses':
      return clip.uses || ''
    case 'reel':
      return text || (clip.kind === 'picture' ? <span className="clip-none">none</span> : '')
    case 'circled':
      return text ? <StateWord word="circled" /> : ''
    default:
      return <span title={text}>{text}</span>
  }
}

export function Thumbnail({ clip }: { clip: Clip }): ReactElement {
  const [isBroken, setBroken] = useState(false)
  if (clip.kind === 'sound' || isBroken)
    return <div className="clip-picture">{clip.kind === 'sound' ? 'sound' : 'no picture'}</div>
  return (
    <div className="clip-picture">
      <ListPicture src={addressOf('clipPicture', { clipId: clip.id })} alt="" onError={() => setBroken(true)} />
    </div>
  )
}
