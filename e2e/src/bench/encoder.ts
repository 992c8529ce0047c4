import { readdir, readFile } from 'node:fs/promises'

/** The encoder's command while it runs, word by word; waited for. */
export async function runningEncoder(): Promise<string[]> {
  const end = Date.now() + 60_000
  while (Date.now() < end) {
    for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
      const words = (await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')).split('\0').slice(0, -1)
      const program = words.findIndex((word) => word.endsWith('ffmpeg'))
      if (program !== -1 && words.some((word) => word.includes('.ennick-part'))) return words.slice(program)
    }
  }
  throw new Error('No encoder was started within a minute.')
}

/** The command of one item without hashes and filmstrip: nobody who encodes by hand would take them. */
export function withoutHashes(words: readonly string[]): string[] {
  const graph = words.indexOf('-filter_complex') + 1
  const pieces = (words[graph] as string).split(';')
  const branch = pieces.find((piece) => piece.endsWith(',split=2[m][s]')) as string
  const frame = (pieces.find((piece) => piece.startsWith('[m]')) as string).slice('[m]'.length)
  const picture = `${branch.replace(/^\[i\d+\]/, '[0:V:0]').replace(/,split=2\[m\]\[s\]$/, '')},${frame}`
  return [
    ...words.slice(0, graph),
    [picture, ...pieces.filter((piece) => /\[a\d+\]$/.test(piece))].join(';'),
    ...words.slice(graph + 1, words.indexOf('[h]') - 1),
  ]
}

/** The filmstrip is written among what a process needs for a moment, under a name of nothing but letters. */
const isStrip = (word: string): boolean => /\/scratch\/[^/]+\/[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(word)

/** Sends everything that a command writes to places of its own. */
export function redirected(words: readonly string[], folder: string): string[] {
  let count = 0
  return words.map((word) =>
    /\.ennick-part|\/hashes-\d+$/.test(word)
      ? `file:${folder}-${count++}`
      : isStrip(word)
        ? `file:${folder}-${count++}.jpg`
        : word,
  )
}
