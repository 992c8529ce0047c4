import { baseName, fileUrl } from '../../../naming/index.ts'
import { escapeXml } from '../../../notes/xml.ts'
import { canonicalJson } from '../../../text/index.ts'
import { allowsDropFrame, formatTimecode, nominalFramesPerSecond, type Rate, rateKey } from '../../../time/index.ts'
import {
  type Cut,
  type CutEvent,
  exactNeeds,
  type Generator,
  leavesInto,
  type Transition,
  wholeFrames,
} from '../../model.ts'
import { asCarried } from '../carries.ts'
import type { WriteOptions } from '../format.ts'
import type { XmlNode } from './xmeml-document.ts'
import { type WrittenLevel, writtenLevel } from './xmeml-level.ts'
import { type WrittenSpeed, writtenMotion } from './xmeml-motion.ts'

/** Writes a cut as timeline XML (xmeml), version 5 unless 4 is wanted. */
export function writeXmeml(cut: Cut, options: WriteOptions = {}): string {
  const writer = new XmemlWriter(asCarried(cut, 'xmeml'))
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<!DOCTYPE xmeml>',
    `<xmeml version="${options.xmemlVersion ?? 5}">`,
    ...writer.write(),
    '</xmeml>',
    '',
  ].join('\n')
}

/** A medium as the document describes it, once. */
interface Described {
  readonly id: string
  readonly startFrame: number
  /** So long at least that all its uses lie in it. */
  frames: number
  readonly event: CutEvent
  soundChannels: number
  isWritten: boolean
}

class XmemlWriter {
  readonly #cut: Cut
  readonly #start: number
  readonly #lines: string[] = []
  readonly #files = new Map<string, Described>()
  readonly #ids = new Map<CutEvent, string>()
  /** Events that are moved together: those that say so, or of one number, at one place, that show the same. */
  readonly #linked = new Map<string, CutEvent[]>()
  #depth = 1

  constructor(cut: Cut) {
    this.#cut = cut
    const starts = [...cut.events, ...(cut.generators ?? [])].map(({ record }) => record.startFrame)
    const first = starts.reduce((least, start) => Math.min(least, start), Number.POSITIVE_INFINITY)
    this.#start = Math.min(cut.recordStartFrame ?? first, first)
    const needs = exactNeeds(cut.events, cut.rate).map(wholeFrames)
    cut.events.forEach((event, index) => {
      this.#ids.set(event, `clipitem-${index + 1}`)
      const key = fileKey(event)
      const startFrame = startOf(event)
      const end = Math.max((needs[index] as { endFrame: number }).endFrame, event.medium?.frames.endFrame ?? 0)
      const known = this.#files.get(key)
      const channels = Math.max(
        event.medium?.soundChannels ?? 0,
        event.kind === 'sound' ? (event.sourceChannel ?? 1) : 0,
      )
      if (known) {
        known.frames = Math.max(known.frames, end - startFrame)
        known.soundChannels = Math.max(known.soundChannels, channels)
      } else
        this.#files.set(key, {
          id: `file-${this.#files.size + 1}`,
          ...{ startFrame, frames: end - startFrame, event, soundChannels: channels, isWritten: false },
        })
      const link = linkKey(event)
      const together = this.#linked.get(link)
      if (together) together.push(event)
      else this.#linked.set(link, [event])
    })
  }

  write(): string[] {
    const { name, rate, dropFrame, raster, markers = [], tracks } = this.#cut
    const ends = [...this.#cut.events, ...(this.#cut.generators ?? [])].map(({ record }) => record.endFrame)
    const end = ends.reduce((most, frame) => Math.max(most, frame), this.#start)
    this.#element('sequence', { id: 'sequence-1' }, () => {
      this.#text('name', name)
      this.#text('duration', end - this.#start)
      this.#rate(rate)
      this.#timecode(this.#start, rate, dropFrame)
      this.#element('media', {}, () => {
        for (const [kind, element] of [
          ['picture', 'video'],
          ['sound', 'audio'],
        ] as const)
          this.#element(element, {}, () => {
            if (kind === 'picture' && raster)
              this.#element('format', {}, () =>
                this.#element('samplecharacteristics', {}, () => {
                  this.#text('width', raster.width)
                  this.#text('height', raster.height)
                  this.#rate(rate)
                }),
              )
            for (const track of tracks) if (track.kind === kind) this.#track(track.name)
          })
      })
      for (const marker of markers)
        this.#element('marker', {}, () => {
          const at = marker.recordFrame - this.#start
          this.#text('name', marker.name)
          this.#text('comment', marker.note)
          this.#text('in', at)
          this.#text('out', marker.durationFrames ? at + marker.durationFrames : -1)
        })
    })
    return this.#lines
  }

  #track(name: string): void {
    this.#element('track', {}, () => {
      const events = this.#cut.events.filter((event) => event.track === name)
      const generators = (this.#cut.generators ?? []).filter((generator) => generator.track === name)
      const items = [
        ...events.map((event) => ({ at: event.record.startFrame, event, generator: null })),
        ...generators.map((generator) => ({ at: generator.record.startFrame, event: null, generator })),
      ].sort((a, b) => a.at - b.at)
      let before: CutEvent | null = null
      for (const { event, generator } of items) {
        if (generator) this.#generator(generator)
        if (event) {
          const from: CutEvent | null = before && leavesInto(before, event) ? before : null
          if (event.transition)
            this.#transition(event.transition, event.record.startFrame, from ? 'start' : 'start-black')
          const next = events[events.indexOf(event) + 1]
          const lent = next && leavesInto(event, next) ? (next.transition as Transition) : null
          this.#clip(event, lent ?? event.fadeOut ?? null)
          if (event.fadeOut) this.#transition(event.fadeOut, event.record.endFrame, 'end-black')
        }
        before = event
      }
    })
  }

  #transition({ kind, wipeCode, durationFrames }: Transition, at: number, alignment: string): void {
    this.#element('transitionitem', {}, () => {
      this.#rate(this.#cut.rate)
      this.#text('start', at - this.#start)
      this.#text('end', at - this.#start + durationFrames)
      this.#text('alignment', alignment)
      this.#element('effect', {}, () => {
        this.#text('name', kind === 'dissolve' ? 'Cross Dissolve' : 'Wipe')
        this.#text('effectid', kind === 'dissolve' ? 'Cross Dissolve' : 'Wipe')
        this.#text('effectcategory', kind === 'dissolve' ? 'Dissolve' : 'Wipe')
        this.#text('effecttype', 'transition')
        this.#text('mediatype', 'video')
        if (kind === 'wipe') this.#text('wipecode', Number(wipeCode ?? '1'))
      })
    })
  }

  #generator({ name, record }: Generator): void {
    this.#element('generatoritem', {}, () => {
      this.#text('name', name)
      this.#text('duration', record.endFrame - record.startFrame)
      this.#rate(this.#cut.rate)
      this.#text('enabled', 'TRUE')
      this.#text('start', record.startFrame - this.#start)
      this.#text('end', record.endFrame - this.#start)
      this.#text('in', 0)
      this.#text('out', record.endFrame - record.startFrame)
    })
  }

  /** @param lent the transition behind it, in which it is still shown */
  #clip(event: CutEvent, lent: Transition | null): void {
    const file = this.#files.get(fileKey(event)) as Described
    const { record, sourceRate } = event
    const motion = writtenMotion(event, file, lent?.durationFrames ?? 0, this.#cut.rate)
    this.#element('clipitem', { id: this.#ids.get(event) as string }, () => {
      this.#text('name', event.clipName ?? (event.path ? baseName(event.path) : ''))
      this.#text('enabled', event.isDisabled ? 'FALSE' : 'TRUE')
      this.#text('duration', motion.duration)
      this.#rate(sourceRate)
      this.#text('start', event.transition ? -1 : record.startFrame - this.#start)
      this.#text('end', lent ? -1 : record.endFrame - this.#start)
      this.#text('in', motion.in)
      this.#text('out', motion.in + motion.frames)
      if (motion.isHeld) this.#text('stillframe', 'TRUE')
      this.#file(file)
      if (event.kind === 'sound')
        this.#element('sourcetrack', {}, () => {
          this.#text('mediatype', 'audio')
          this.#text('trackindex', event.sourceChannel ?? 1)
        })
      if (motion.speed) this.#speed(motion.speed)
      this.#fit(event)
      this.#level(writtenLevel(event, motion.in))
      const carried = event.carried?.format === 'xmeml' ? event.carried.parts : {}
      for (const node of [...((carried.filters ?? []) as XmlNode[]), ...((carried.markers ?? []) as XmlNode[])])
        this.#node(node)
      const together = this.#linked.get(linkKey(event)) ?? []
      if (together.length > 1)
        for (const other of together)
          this.#element('link', {}, () => {
            this.#text('linkclipref', this.#ids.get(other) as string)
            this.#text('mediatype', other.kind === 'picture' ? 'video' : 'audio')
            this.#text('trackindex', Number(other.track.slice(1)))
          })
    })
  }

  #file(file: Described): void {
    const { event, id, startFrame, frames } = file
    if (file.isWritten) {
      this.#line(`<file id="${id}"/>`)
      return
    }
    file.isWritten = true
    this.#element('file', { id }, () => {
      this.#text('name', event.path ? baseName(event.path) : (event.clipName ?? ''))
      if (event.path) this.#text('pathurl', fileUrl(event.path))
      this.#rate(event.sourceRate)
      this.#text('duration', frames)
      const isDrop = allowsDropFrame(event.sourceRate) && (event.sourceDropFrame ?? this.#cut.dropFrame)
      this.#timecode(startFrame, event.sourceRate, isDrop, event.reel)
      const { width, height } = event.medium ?? { width: null, height: null }
      this.#element('media', {}, () => {
        if (width && height)
          this.#element('video', {}, () =>
            this.#element('samplecharacteristics', {}, () => {
              this.#text('width', width)
              this.#text('height', height)
            }),
          )
        if (file.soundChannels) this.#element('audio', {}, () => this.#text('channelcount', file.soundChannels))
      })
    })
  }

  /** Percent, and where that does not say to the frame where it begins, keyframes that do. */
  #speed({ percent, isReversed, keyframes }: WrittenSpeed): void {
    this.#effect({ name: 'Time Remap', id: 'timeremap', category: 'motion', medium: 'video' }, () => {
      this.#parameter('variablespeed', keyframes ? '1' : '0')
      this.#parameter('speed', percent)
      this.#parameter('reverse', isReversed ? 'TRUE' : 'FALSE')
      this.#parameter('frameblending', 'FALSE')
      if (keyframes)
        this.#element('parameter', {}, () => {
          this.#text('parameterid', 'graphdict')
          this.#text('name', 'graphdict')
          this.#keyframes(keyframes)
        })
    })
  }

  #fit({ fit, carried }: CutEvent): void {
    const filters = (carried?.format === 'xmeml' ? (carried.parts.filters ?? []) : []) as XmlNode[]
    const isCarried = filters.some((filter) =>
      filter.children.some(
        (effect) =>
          effect.name === 'effect' &&
          effect.children.some((child) => child.name === 'effectid' && child.text.toLowerCase() === 'basic'),
      ),
    )
    if (!fit || isCarried) return
    this.#effect({ name: 'Basic Motion', id: 'basic', category: 'motion', medium: 'video' }, () => {
      this.#parameter('scale', String(fit.scalePercent))
      const { offset } = fit
      if (offset)
        this.#element('parameter', {}, () => {
          this.#text('parameterid', 'center')
          this.#text('name', 'Center')
          this.#element('value', {}, () => {
            this.#text('horiz', offset.horizontal)
            this.#text('vert', offset.vertical)
          })
        })
    })
  }

  #level(level: WrittenLevel | null): void {
    if (!level) return
    this.#effect({ name: 'Audio Levels', id: 'audiolevels', category: 'audiolevels', medium: 'audio' }, () => {
      this.#parameter('level', level.gain, level.keyframes)
    })
  }

  #effect(of: { name: string; id: string; category: string; medium: 'video' | 'audio' }, parameters: () => void): void {
    this.#element('filter', {}, () =>
      this.#element('effect', {}, () => {
        this.#text('name', of.name)
        this.#text('effectid', of.id)
        this.#text('effectcategory', of.category)
        this.#text('effecttype', of.category)
        this.#text('mediatype', of.medium)
        parameters()
      }),
    )
  }

  #parameter(id: string, value: string, keyframes: readonly { when: string; value: string }[] = []): void {
    this.#element('parameter', {}, () => {
      this.#text('parameterid', id)
      this.#text('name', id)
      this.#text('value', value)
      this.#keyframes(keyframes)
    })
  }

  #keyframes(keyframes: readonly { readonly when: string; readonly value: string }[]): void {
    for (const { when, value } of keyframes)
      this.#element('keyframe', {}, () => {
        this.#text('when', when)
        this.#text('value', value)
      })
  }

  #rate(rate: Rate): void {
    this.#element('rate', {}, () => {
      this.#text('timebase', nominalFramesPerSecond(rate))
      this.#text('ntsc', rate.denominator === 1001 ? 'TRUE' : 'FALSE')
    })
  }

  #timecode(frame: number, rate: Rate, isDrop: boolean, reel: string | null = null): void {
    this.#element('timecode', {}, () => {
      this.#rate(rate)
      this.#text('string', formatTimecode(frame, rate, isDrop))
      this.#text('frame', frame)
      this.#text('source', 'source')
      this.#text('displayformat', isDrop ? 'DF' : 'NDF')
      if (reel !== null) this.#element('reel', {}, () => this.#text('name', reel))
    })
  }

  /** An element that came from such a document, as it was. */
  #node(node: XmlNode): void {
    const attributes: Record<string, string> = node.id === null ? {} : { id: node.id }
    if (node.children.length === 0) this.#text(node.name, node.text)
    else
      this.#element(node.name, attributes, () => {
        for (const child of node.children) this.#node(child)
      })
  }

  #element(name: string, attributes: Record<string, string>, inside: () => void): void {
    const written = Object.entries(attributes).flatMap(([key, value]) =>
      value ? [` ${key}="${escapeXml(value)}"`] : [],
    )
    this.#line(`<${name}${written.join('')}>`)
    this.#depth++
    inside()
    this.#depth--
    this.#line(`</${name}>`)
  }

  #text(name: string, value: string | number): void {
    this.#line(`<${name}>${escapeXml(String(value))}</${name}>`)
  }

  #line(text: string): void {
    this.#lines.push(`${'  '.repeat(this.#depth)}${text}`)
  }
}

const startOf = (event: CutEvent): number =>
  Math.min(event.medium?.frames.startFrame ?? event.mediumStartFrame ?? 0, event.source.startFrame)

const fileKey = (event: CutEvent): string =>
  canonicalJson([
    ...[event.path, event.path === null ? event.clipName : null, event.reel, rateKey(event.sourceRate)],
    ...[startOf(event), event.sourceDropFrame ?? null],
  ])

const linkKey = (event: CutEvent): string =>
  event.linkedBy !== undefined
    ? `by ${event.linkedBy}`
    : canonicalJson([event.number, event.record, event.source, event.path, event.clipName, event.reel, event.speed])
