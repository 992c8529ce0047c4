import type { Packet, SampleTable } from './sample-table.ts'

interface Read {
  readonly table: SampleTable
  readonly ticksPerSecond: number
  readonly beginsAt: number
}

const second = 1_000_000

/**
 * The packets of all tracks as a reader is handed them: as they lie in the file, as long as no track is more than a
 * second ahead of another.
 */
export function* inOrderOfReading<T extends Read>(tracks: readonly T[]): Generator<[T, Packet]> {
  const heads = tracks.map((track) => {
    const packets = track.table.packets()
    return { track, packets, next: packets.next().value as Packet | undefined }
  })
  for (;;) {
    let best: { head: (typeof heads)[number]; packet: Packet; due: number } | null = null
    for (const head of heads) {
      if (!head.next) continue
      const { ticksPerSecond, beginsAt } = head.track
      const due = Math.round(((head.next.ticks - beginsAt) * second) / ticksPerSecond)
      const ahead = best === null ? 0 : best.due - due
      const isFirst = Math.abs(ahead) <= second ? best === null || head.next.at < best.packet.at : ahead > 0
      if (isFirst) best = { head, packet: head.next, due }
    }
    if (!best) return
    yield [best.head.track, best.packet]
    best.head.next = best.head.packets.next().value as Packet | undefined
  }
}
