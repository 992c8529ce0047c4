import { groupBy } from '../text/index.ts'

/** One possible choice: a row may take a column for so many bits. */
export interface Choice {
  readonly row: number
  readonly column: number
  readonly bits: number
}

/** What the best assignment gives a row, and how sure that is. */
export interface Assigned {
  /** Null when the row goes without. */
  readonly column: number | null
  /**
   * How many bits the next best assignment loses in which the row gets other content, or something where it had
   * nothing, or nothing because another row gets what it had; at most the margin that was asked for.
   */
  readonly lead: number
}

/** The same where a column may go to any number of rows: each row is judged by itself. */
export function assignAlone(
  rowCount: number,
  _columnCount: number,
  choices: readonly Choice[],
  contentOf: (column: number) => string,
  margin: number,
): Assigned[] {
  const ofRow = groupBy(
    choices.filter(({ bits }) => bits > 0),
    ({ row }) => row,
  )
  return Array.from({ length: rowCount }, (_, row) => {
    const ranked = [...(ofRow.get(row) ?? [])].sort((a, b) => b.bits - a.bits || a.column - b.column)
    const [best] = ranked
    if (!best) return { column: null, lead: margin }
    const rival = ranked.find(({ column }) => contentOf(column) !== contentOf(best.column))
    return { column: best.column, lead: Math.min(margin, rival ? best.bits - rival.bits : margin) }
  })
}

/** Paths in the graph of choices, with what each step loses against the best. */
interface Edge {
  readonly column: number
  readonly bits: number
}

const unset = -1
/** Sums of logarithms in another order differ by less than this. */
const nothing = 1e-9

/**
 * The assignment of the greatest sum in which no column goes to two rows, by shortest augmenting paths over adjacency
 * lists (Kuhn 1955; Edmonds and Karp 1972), and for each row how clear it is: whatever else costs less than the margin
 * is as good as the best. Neither depends on the order of the choices.
 * @param contentOf what is in a column: of two columns with the same content it does not matter which a row gets
 * @param margin in bits
 */
export function assign(
  rowCount: number,
  columnCount: number,
  choices: readonly Choice[],
  contentOf: (column: number) => string,
  margin: number,
): Assigned[] {
  const graph = new Graph(rowCount, columnCount, choices)
  graph.solve()
  return Array.from({ length: rowCount }, (_, row) => ({
    column: graph.columnOf(row),
    lead: graph.lead(row, contentOf, margin),
  }))
}

class Graph {
  readonly #rowCount: number
  readonly #columnCount: number
  readonly #edges: Edge[][]
  /** The rows that may take each column. */
  readonly #takers = new Map<number, number[]>()
  readonly #rowPotential: Float64Array
  readonly #columnPotential: Float64Array
  readonly #columnOfRow: Int32Array
  readonly #rowOfColumn: Int32Array

  constructor(rowCount: number, columnCount: number, choices: readonly Choice[]) {
    this.#rowCount = rowCount
    this.#columnCount = columnCount
    // Behind the columns that were given, each row has one of its own at no bits: to go without.
    this.#edges = Array.from({ length: rowCount }, (_, row) => [{ column: columnCount + row, bits: 0 }])
    for (const { row, column, bits } of choices) if (bits > 0) this.#edges[row]?.push({ column, bits })
    this.#edges.forEach((list, row) => {
      list.sort((a, b) => a.column - b.column)
      for (const { column } of list) {
        const takers = this.#takers.get(column)
        if (takers) takers.push(row)
        else this.#takers.set(column, [row])
      }
    })
    this.#rowPotential = new Float64Array(rowCount)
    this.#columnPotential = new Float64Array(columnCount + rowCount)
    this.#columnOfRow = new Int32Array(rowCount).fill(unset)
    this.#rowOfColumn = new Int32Array(columnCount + rowCount).fill(unset)
  }

  columnOf(row: number): number | null {
    const column = this.#columnOfRow[row] as number
    return column < this.#columnCount ? column : null
  }

  solve(): void {
    for (let row = 0; row < this.#rowCount; row++) {
      this.#rowPotential[row] = Math.max(
        ...(this.#edges[row] as Edge[]).map(({ column, bits }) => bits - (this.#columnPotential[column] as number)),
      )
      this.#augment(row)
    }
  }

  /** What a step loses against the best that the potentials promise; never below nothing. */
  #slack(row: number, { column, bits }: Edge): number {
    return Math.max(0, (this.#rowPotential[row] as number) + (this.#columnPotential[column] as number) - bits)
  }

  #augment(first: number): void {
    const distance = new Map<number, number>()
    const cameFrom = new Map<number, number>()
    const settled: number[] = []
    const heap = new Heap()
    const isSettled = new Set<number>()
    const rowDistance = new Map([[first, 0]])
    const reach = (row: number, from: number): void => {
      for (const edge of this.#edges[row] as Edge[]) {
        const reached = from + this.#slack(row, edge)
        if (reached >= (distance.get(edge.column) ?? Number.POSITIVE_INFINITY)) continue
        distance.set(edge.column, reached)
        cameFrom.set(edge.column, row)
        heap.push(reached, edge.column)
      }
    }
    reach(first, 0)
    for (;;) {
      const [reached, column] = heap.pop() as [number, number]
      if (isSettled.has(column)) continue
      isSettled.add(column)
      const row = this.#rowOfColumn[column] as number
      if (row !== unset) {
        settled.push(column)
        rowDistance.set(row, reached)
        reach(row, reached)
        continue
      }
      for (const [other, at] of rowDistance)
        this.#rowPotential[other] = (this.#rowPotential[other] as number) - (reached - at)
      for (const other of settled)
        this.#columnPotential[other] =
          (this.#columnPotential[other] as number) + reached - (distance.get(other) as number)
      this.#turn(first, column, cameFrom)
      return
    }
  }

  /** Gives every row of a path the column that the path leads to. */
  #turn(first: number, last: number, cameFrom: ReadonlyMap<number, number>): void {
    for (let column = last; ; ) {
      const row = cameFrom.get(column) as number
      const before = this.#columnOfRow[row] as number
      this.#columnOfRow[row] = column
      this.#rowOfColumn[column] = row
      if (row === first) return
      column = before
    }
  }

  /** What it loses at least that another row takes a column that its holder leaves, and so on. */
  #lossOfFilling(column: number, holder: number, margin: number): number {
    let best = margin
    const heap = new Heap()
    const isSettled = new Set<number>()
    heap.push(0, column)
    for (let next = heap.pop(); next && next[0] < best; next = heap.pop()) {
      const [lost, vacant] = next
      if (isSettled.has(vacant)) continue
      isSettled.add(vacant)
      if (vacant !== column) best = Math.min(best, lost + (this.#columnPotential[vacant] as number))
      for (const row of this.#takers.get(vacant) ?? []) {
        const leaves = this.#columnOfRow[row] as number
        if (row === holder || leaves === vacant) continue
        const edge = (this.#edges[row] as Edge[]).find((each) => each.column === vacant) as Edge
        heap.push(lost + this.#slack(row, edge), leaves)
      }
    }
    return best
  }

  lead(row: number, contentOf: (column: number) => string, margin: number): number {
    const own = this.#columnOfRow[row] as number
    const content = own < this.#columnCount ? contentOf(own) : null
    const isFilled = this.#lossOfFilling(own, row, margin)
    const isLeft = Math.min(this.#columnPotential[own] as number, isFilled)
    let best = margin
    const heap = new Heap()
    const isSettled = new Set<number>()
    const push = (from: number, lost: number, isFirst: boolean): void => {
      for (const edge of this.#edges[from] as Edge[]) {
        const { column } = edge
        if (isFirst && column >= this.#columnCount) {
          // That it goes without while nobody gains by it is no other way to see things: it is weak evidence.
          if (column !== own) best = Math.min(best, this.#slack(from, edge) + isFilled)
          continue
        }
        if (isFirst && (column === own || contentOf(column) === content)) continue
        const reached = lost + this.#slack(from, edge)
        if (reached < best) heap.push(reached, column)
      }
    }
    push(row, 0, true)
    for (let next = heap.pop(); next && next[0] < best; next = heap.pop()) {
      const [reached, column] = next
      if (isSettled.has(column)) continue
      isSettled.add(column)
      const holder = this.#rowOfColumn[column] as number
      if (column === own) best = Math.min(best, reached)
      else if (holder === unset) best = Math.min(best, reached + isLeft)
      else if (holder !== row) push(holder, reached, false)
    }
    return best < nothing ? 0 : best
  }
}

/** A binary heap of columns, the least distance first; of equal ones the first column. */
class Heap {
  readonly #items: [number, number][] = []

  push(distance: number, column: number): void {
    const items = this.#items
    items.push([distance, column])
    for (let at = items.length - 1; at > 0; ) {
      const parent = (at - 1) >> 1
      if (!isBefore(items[at] as [number, number], items[parent] as [number, number])) return
      this.#swap(at, parent)
      at = parent
    }
  }

  pop(): [number, number] | undefined {
    const items = this.#items
    const [first] = items
    const last = items.pop()
    if (!first || !last || items.length === 0) return first
    items[0] = last
    for (let at = 0; ; ) {
      const [left, right] = [2 * at + 1, 2 * at + 2]
      let least = at
      for (const child of [left, right])
        if (child < items.length && isBefore(items[child] as [number, number], items[least] as [number, number]))
          least = child
      if (least === at) return first
      this.#swap(at, least)
      at = least
    }
  }

  #swap(a: number, b: number): void {
    const kept = this.#items[a] as [number, number]
    this.#items[a] = this.#items[b] as [number, number]
    this.#items[b] = kept
  }
}

const isBefore = (a: readonly [number, number], b: readonly [number, number]): boolean =>
  a[0] < b[0] || (a[0] === b[0] && a[1] < b[1])
