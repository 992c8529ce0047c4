/** One possible choice: row `wanted` may take column `candidate` for a positive score. */
export interface Choice {
  readonly wanted: string
  readonly candidate: string
  readonly score: number
}

/**
 * Gives each wanted thing at most one candidate and each candidate at most once, so that the sum of scores is the
 * greatest possible: the batch is solved as a whole, and no two can grab the same file.
 * @returns wanted → candidate, for those that got one.
 */
export function assign(choices: readonly Choice[]): Map<string, string> {
  const result = new Map<string, string>()
  for (const group of connectedGroups(choices.filter((choice) => choice.score > 0))) {
    for (const [wanted, candidate] of solveGroup(group)) result.set(wanted, candidate)
  }
  return result
}

/** Splits the choices into groups that share neither wanted nor candidate, so that each is solved alone and small. */
function connectedGroups(choices: readonly Choice[]): Choice[][] {
  const parent = new Map<string, string>()
  const find = (key: string): string => {
    let root = key
    while (parent.get(root) !== root) root = parent.get(root) as string
    for (let at = key; at !== root; ) {
      const next = parent.get(at) as string
      parent.set(at, root)
      at = next
    }
    return root
  }
  for (const choice of choices) {
    for (const key of [`w${choice.wanted}`, `c${choice.candidate}`]) if (!parent.has(key)) parent.set(key, key)
    parent.set(find(`w${choice.wanted}`), find(`c${choice.candidate}`))
  }
  const groups = new Map<string, Choice[]>()
  for (const choice of choices) {
    const root = find(`w${choice.wanted}`)
    const group = groups.get(root)
    if (group) group.push(choice)
    else groups.set(root, [choice])
  }
  return [...groups.values()]
}

/** The assignment problem by shortest augmenting paths (Kuhn and Munkres, in O(n²m) with potentials). */
function solveGroup(choices: readonly Choice[]): [string, string][] {
  const rows = [...new Set(choices.map((choice) => choice.wanted))]
  // A column of its own for each row, at no score, lets a row go without.
  const columns = [...new Set(choices.map((choice) => choice.candidate))]
  const width = columns.length + rows.length
  const score = new Map(choices.map((choice) => [`${choice.wanted}\u0000${choice.candidate}`, choice.score]))
  const cost = (row: number, column: number): number =>
    column < columns.length ? -(score.get(`${rows[row - 1]}\u0000${columns[column]}`) ?? 0) : 0
  const rowPotential = new Array<number>(rows.length + 1).fill(0)
  const columnPotential = new Array<number>(width + 1).fill(0)
  const rowOfColumn = new Array<number>(width + 1).fill(0)
  const cameFrom = new Array<number>(width + 1).fill(0)
  for (let row = 1; row <= rows.length; row++) {
    rowOfColumn[0] = row
    let column = 0
    const slack = new Array<number>(width + 1).fill(Number.POSITIVE_INFINITY)
    const visited = new Array<boolean>(width + 1).fill(false)
    do {
      visited[column] = true
      const currentRow = rowOfColumn[column] as number
      let delta = Number.POSITIVE_INFINITY
      let next = 0
      for (let other = 1; other <= width; other++) {
        if (visited[other]) continue
        const reduced = cost(currentRow, other - 1) - (rowPotential[currentRow] as number) - (columnPotential[other] as number)
        if (reduced < (slack[other] as number)) {
          slack[other] = reduced
          cameFrom[other] = column
        }
        if ((slack[other] as number) < delta) {
          delta = slack[other] as number
          next = other
        }
      }
      for (let other = 0; other <= width; other++) {
        if (visited[other]) {
          rowPotential[rowOfColumn[other] as number] = (rowPotential[rowOfColumn[other] as number] as number) + delta
          columnPotential[other] = (columnPotential[other] as number) - delta
        } else slack[other] = (slack[other] as number) - delta
      }
      column = next
    } while (rowOfColumn[column] !== 0)
    while (column !== 0) {
      const previous = cameFrom[column] as number
      rowOfColumn[column] = rowOfColumn[previous] as number
      column = previous
    }
  }
  const pairs: [string, string][] = []
  for (let column = 1; column <= columns.length; column++) {
    const row = rowOfColumn[column] as number
    if (row !== 0 && cost(row, column - 1) < 0) pairs.push([rows[row - 1] as string, columns[column - 1] as string])
  }
  return pairs
}
