import { cp, mkdir, rename, utimes } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { pause, run, say } from '../bench/measure.ts'
import type { Ennick } from '../ennick.ts'
import type { Chance } from './chance.ts'
import { contentOf, differences } from './disk.ts'
import { ask, insist, makeClip, makeRecording, recipeId, timecodeOf, untilIdle } from './stage.ts'

const clips = 6
/** Of these the originals are delivered again. */
const redelivered = [4, 5]

interface Mend {
  readonly id: string
  readonly state: 'waiting' | 'done' | 'failed' | 'undone'
}

interface Finding {
  readonly key: string
  readonly kind: string
  readonly since: string
  readonly lapsed: object | null
  readonly padSamples: number | null
  readonly decision: object | null
}

/**
 * Does many random edits, mends and makes, and takes them back in between and at the end. @returns what is not as it
 * was
 */
export async function tormentUndo(ennick: Ennick, folder: string, chance: Chance, steps: number): Promise<string[]> {
  const walk = new UndoWalk(ennick, folder, chance)
  await walk.prepare()
  const before = await walk.snapshot()
  const counts = new Map<string, number>()
  for (let step = 0; step < steps; step++) {
    const name = await walk.step()
    counts.set(name, (counts.get(name) ?? 0) + 1)
  }
  say(`  ${[...counts].map(([name, count]) => `${count} × ${name}`).join(', ')}`)
  await walk.takeAllBack()
  return differences(before, await walk.snapshot())
}

class UndoWalk {
  readonly #ennick: Ennick
  readonly #folder: string
  readonly #chance: Chance
  #productionId = ''
  #cutId = ''
  #clipIds: string[] = []

  constructor(ennick: Ennick, folder: string, chance: Chance) {
    this.#ennick = ennick
    this.#folder = join(folder, 'undo')
    this.#chance = chance
  }

  get #of(): string {
    return `/productions/${this.#productionId}`
  }

  /** What was delivered first, and what was delivered again in its place. */
  #delivery(seed: number, turn: number): string {
    return join(this.#folder, 'deliveries', String(turn), `U${seed}.mov`)
  }

  #post(path: string, body: object = {}) {
    return insist(this.#ennick, 'POST', path, body)
  }

  /** Clips with proxies; two originals moved to a shelf that nobody knows, and one there that no clip is of. */
  async prepare(): Promise<void> {
    const card = join(this.#folder, 'card')
    // To the second, so that a copy of it has the very same time.
    const second = Math.floor(Date.now() / 1000) - 60
    for (let seed = 1; seed <= clips; seed++) {
      await makeClip(join(card, `U${seed}.mov`), seed, 15)
      await utimes(join(card, `U${seed}.mov`), second, second)
    }
    this.#productionId = (
      await this.#post('/productions', {
        ...{ name: 'Undo', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
      })
    ).id
    const { id: volumeId } = await this.#post(`${this.#of}/volumes`, { label: 'CARD', kind: 'drive', rootPath: card })
    await this.#post(`/volumes/${volumeId}/scan`)
    await untilIdle(this.#ennick, this.#productionId)
    this.#clipIds = (await this.#post(`${this.#of}/clips/ids`)).ids
    // Named by what is edited, so that there is something to rename.
    const recipes: { id: string }[] = await insist(this.#ennick, 'GET', '/recipes')
    const half = recipes.find(({ id }) => id === recipeId)
    const recipe = { ...half, name: `By scene ${this.#productionId}`, namePattern: '{source} {scene}' }
    const { id: byScene } = await this.#post('/recipes', recipe)
    await this.#post(`${this.#of}/make`, { clipIds: this.#clipIds, recipeId: byScene })
    await untilIdle(this.#ennick, this.#productionId)
    for (const seed of redelivered) {
      await cp(join(card, `U${seed}.mov`), this.#delivery(seed, 0), { preserveTimestamps: true, recursive: true })
      await makeOther(join(card, `U${seed}.mov`), seed, this.#delivery(seed, 1))
    }
    await makeRecording(join(card, 'U10.wav'), 10 * 48_000 + 1500)
    await this.#post(`/volumes/${volumeId}/scan`)
    await untilIdle(this.#ennick, this.#productionId)
    await mkdir(join(this.#folder, 'shelf'))
    for (const name of ['U1.mov', 'U2.mov']) await rename(join(card, name), join(this.#folder, 'shelf', name))
    await makeClip(join(this.#folder, 'shelf/U9.mov'), 9, 15)
    await this.#post(`${this.#of}/check`)
    await untilIdle(this.#ennick, this.#productionId)
    // The third needs two frames more than its clip has.
    const lastOf = (number: number): number => (number === 3 ? 17 : 10)
    const event = (number: number, name: string): string => {
      const hour = String(10 + number).padStart(2, '0')
      const minute = String(number).padStart(2, '0')
      const spans = [`${hour}:${minute}:00`, `01:00:0${number}`].map((at) => `${at}:00 ${at}:${lastOf(number)}`)
      return `00${number}  T${number} V C ${spans.join(' ')}\n* FROM CLIP NAME: ${name}\n`
    }
    const pictures = [1, 2, 3, 4, 9].map((number) => event(number, `U${number}.mov`))
    // It ends within the last frame that is wanted of it.
    const sound = '010  AX A C 10:00:09:00 10:00:10:01 01:00:10:00 01:00:11:01\n* FROM CLIP NAME: U10.wav\n'
    const text = `TITLE: Undo\n${pictures.join('')}${sound}`
    this.#cutId = (await this.#post(`${this.#of}/cuts`, { fileName: 'undo.edl', text })).id
  }

  /**
   * Everything that an undo has to bring back: rows, without the times at which they were looked at, findings and
   * files.
   */
  async snapshot(): Promise<Map<string, string>> {
    await untilIdle(this.#ennick, this.#productionId)
    const rows = new Map<string, string>()
    const tables = [
      ['volumes', 'production_id = $1', ['last_seen_at', 'is_here']],
      ['files', 'volume_id in (select id from volumes where production_id = $1)', ['seen_at']],
      ['clips', 'production_id = $1', []],
      ['clip_files', 'clip_id in (select id from clips where production_id = $1)', []],
      ['clip_copies', 'clip_id in (select id from clips where production_id = $1)', []],
      ['pairs', 'clip_id in (select id from clips where production_id = $1)', ['checked_at']],
      [
        'pair_files',
        'pair_id in (select pairs.id from pairs join clips on clips.id = clip_id where production_id = $1)',
        [],
      ],
      ['events', 'cut_id in (select id from cuts where production_id = $1)', []],
    ] as const
    for (const [table, where, without] of tables)
      for (const { row } of await ask<{ row: Record<string, unknown> }>(
        this.#ennick,
        `select to_jsonb(${table}) as row from ${table} where ${where}`,
        [this.#productionId],
      )) {
        for (const column of without) delete row[column]
        const key = ['id', 'clip_id', 'pair_id', 'cut_id', 'ordinal', 'position', 'file_id']
          .flatMap((name) => (name in row ? [row[name]] : []))
          .join(' ')
        rows.set(`${table} ${key}`, JSON.stringify(row))
      }
    const trials = await ask<{ name: string }>(this.#ennick, 'select name from productions where trial_of is not null')
    for (const { name } of trials) rows.set(`trial ${name}`, 'is left')
    // Since when it is so, and what was decided of it as it was meanwhile, is history: that goes on.
    for (const { since: _, lapsed: __, ...finding } of await this.#findings(this.#cutId))
      rows.set(`finding ${finding.key}`, JSON.stringify(finding))
    const [made] = await ask<{ root_path: string }>(
      this.#ennick,
      `select root_path from volumes where kind = 'made' and production_id = $1`,
      [this.#productionId],
    )
    for (const [path, content] of await contentOf(made?.root_path ?? '')) rows.set(`file ${path}`, content)
    return rows
  }

  async step(): Promise<string> {
    const steps: readonly (readonly [string, number, () => Promise<unknown>])[] = [
      ['edit', 12, () => this.#edit()],
      ['undo of an edit', 8, () => this.#post(`${this.#of}/edits/undo`)],
      ['edit done again', 6, () => this.#post(`${this.#of}/edits/redo`)],
      ['make again', 6, () => this.#makeAgain()],
      ['untie', 6, () => this.#untie()],
      ['repoint', 8, () => this.#repoint()],
      ['choice of a clip', 8, () => this.#choose()],
      ['replacement from the start', 5, () => this.#replace()],
      ['trim', 5, () => this.#trim()],
      ['decision', 6, () => this.#decide()],
      ['pad', 4, () => this.#pad()],
      ['redelivery', 6, () => this.#redeliver()],
      ['rename', 4, () => this.#rename()],
      ['trial', 4, () => this.#try()],
      ['undo of a mend', 14, () => this.#undoMend()],
    ]
    let at = this.#chance.below(100)
    const [name, , work] = steps.find(([, share]) => {
      at -= share
      return at < 0
    }) as (typeof steps)[number]
    // A refusal is an answer: there was nothing to undo, or something else came first.
    await work().catch((error: Error) => {
      if (error instanceof TypeError || /made a mistake|request cannot be used/.test(error.message)) throw error
    })
    return name
  }

  async #edit(): Promise<void> {
    // A clip that a mend brought in and a person has described since stays when the mend is taken back: not here.
    const clipIds = this.#chance.some(this.#clipIds)
    const field = this.#chance.pick(['scene', 'take', 'notes', 'reel'])
    const action = this.#chance.pick([
      { kind: 'set', clipIds, field, value: String(this.#chance.below(40)) },
      { kind: 'copy', clipIds, field, from: 'name', onlyEmpty: this.#chance.next() < 0.5 },
      { kind: 'replace', clipIds, field, find: '([0-9])', replace: '<$1>', isPattern: true, isCaseSensitive: true },
      { kind: 'fill', clipIds, field, pattern: '{name}-{counter:2}', onlyEmpty: false },
      { kind: 'reel', clipIds, source: { kind: 'first-characters', count: 2 } },
    ])
    await this.#post(`${this.#of}/clips/edit`, { action, apply: true })
  }

  async #makeAgain(): Promise<void> {
    const ledger: { pairs: { id: string }[] }[] = await insist(this.#ennick, 'GET', `${this.#of}/pairs`)
    const pairs = ledger.flatMap((row) => row.pairs)
    if (pairs.length === 0) return
    const pair = this.#chance.pick(pairs)
    await this.#post(`/cuts/${this.#cutId}/make-again`, { pairIds: [pair.id] })
    await untilIdle(this.#ennick, this.#productionId)
  }

  async #untie(): Promise<void> {
    const ledger: { pairs: { id: string }[] }[] = await insist(this.#ennick, 'GET', `${this.#of}/pairs`)
    const pairs = ledger.flatMap((row) => row.pairs)
    if (pairs.length) await this.#post(`/pairs/${this.#chance.pick(pairs).id}/untie`)
  }

  async #rename(): Promise<void> {
    const ledger: { pairs: { id: string }[] }[] = await insist(this.#ennick, 'GET', `${this.#of}/pairs`)
    const pairIds = ledger.flatMap((row) => row.pairs.map(({ id }) => id))
    if (pairIds.length) await this.#post(`${this.#of}/rename`, { pairIds: this.#chance.some(pairIds) })
  }

  /** Mends in a trial, and keeps what came of it or not; of the trial itself nothing is left. */
  async #try(): Promise<void> {
    const trial: { productionId: string; cutId: string } = await this.#post(`/cuts/${this.#cutId}/begin-trial`)
    try {
      await this.#repoint(trial)
      if (this.#chance.next() < 0.6) await this.#post(`/productions/${trial.productionId}/trial/keep`)
    } finally {
      // What was kept is gone already; a refusal to keep it leaves it to be thrown away.
      await insist(this.#ennick, 'DELETE', `/productions/${trial.productionId}/trial`).catch((error: Error) => {
        if (!/no trial|not here|no such|not there/i.test(error.message)) throw error
      })
    }
  }

  async #repoint(at = { productionId: this.#productionId, cutId: this.#cutId }): Promise<void> {
    const { id } = await this.#post(`/cuts/${at.cutId}/searches`, {
      folder: join(this.#folder, 'shelf'),
      findingKeys: null,
    })
    await untilIdle(this.#ennick, at.productionId)
    const { rows }: { rows: { wantedId: string; candidateId: string | null }[] } = await insist(
      this.#ennick,
      'GET',
      `/jobs/${id}/search`,
    )
    const fitting = rows.filter((row) => row.candidateId !== null)
    if (fitting.length === 0) return
    const choices = this.#chance.some(fitting).map(({ wantedId, candidateId }) => ({ wantedId, candidateId }))
    await this.#post(`/cuts/${at.cutId}/repoint`, { searchJobId: id, choices })
  }

  /** The cut that was read, or one of the versions that mends have made of it. */
  async #anyCut(): Promise<string> {
    const cuts: { id: string }[] = await insist(this.#ennick, 'GET', `${this.#of}/cuts`)
    return this.#chance.pick(cuts).id
  }

  async #anyUse(): Promise<{ positions: number[]; clipId: string }> {
    const { ids }: { ids: string[] } = await this.#post(`${this.#of}/clips/ids`)
    return { positions: this.#chance.some([0, 1, 2, 3, 4]), clipId: this.#chance.pick(ids) }
  }

  async #choose(): Promise<void> {
    await this.#post(`/cuts/${await this.#anyCut()}/choice`, { choices: [await this.#anyUse()] })
  }

  async #replace(): Promise<void> {
    await this.#post(`/cuts/${await this.#anyCut()}/replacements`, { ...(await this.#anyUse()), apply: true })
  }

  async #trim(): Promise<void> {
    const cutId = await this.#anyCut()
    const short = (await this.#findings(cutId)).filter(({ kind }) => kind === 'too short')
    if (short.length === 0) return
    await this.#post(`/cuts/${cutId}/trim`, { findingKeys: this.#chance.some(short).map(({ key }) => key) })
  }

  async #pad(): Promise<void> {
    const cutId = await this.#anyCut()
    const short = (await this.#findings(cutId)).filter(({ padSamples }) => padSamples !== null)
    if (short.length) await this.#post(`/cuts/${cutId}/pad`, { findingKeys: short.map(({ key }) => key) })
    await untilIdle(this.#ennick, this.#productionId)
  }

  /** Decides that a finding of the first cut may stay open, or takes that back. */
  async #decide(): Promise<void> {
    const found = await this.#findings(this.#cutId)
    if (found.length === 0) return
    const { key, decision } = this.#chance.pick(found)
    if (decision) await this.#post(`/cuts/${this.#cutId}/decisions/withdraw`, { findingKey: key })
    else await this.#post(`/cuts/${this.#cutId}/decisions`, { findingKey: key, reason: 'It may stay so.' })
  }

  /** Other content, or what lay there first, comes to where an original lies, and is taken for the original or not. */
  async #redeliver(): Promise<void> {
    await this.#deliver(this.#chance.pick(redelivered), this.#chance.below(2))
    if (this.#chance.next() < 0.4) return
    const clipIds = this.#chance.some(this.#clipIds)
    await this.#post(`${this.#of}/redelivered`, { clipIds, reason: 'delivered again', apply: true })
  }

  async #deliver(seed: number, turn: number): Promise<void> {
    await cp(this.#delivery(seed, turn), join(this.#folder, 'card', `U${seed}.mov`), { preserveTimestamps: true })
    await this.#post(`${this.#of}/check`)
    await untilIdle(this.#ennick, this.#productionId)
  }

  #findings(cutId: string): Promise<Finding[]> {
    return insist(this.#ennick, 'GET', `/cuts/${cutId}/findings`)
  }

  async #undoMend(): Promise<void> {
    const done = (await this.#mends()).filter((mend) => mend.state === 'done')
    if (done.length) await this.#post(`/mends/${this.#chance.pick(done).id}/undo`)
  }

  /** The newest first. */
  #mends(): Promise<Mend[]> {
    return insist(this.#ennick, 'GET', `${this.#of}/mends`)
  }

  async takeAllBack(): Promise<void> {
    await untilIdle(this.#ennick, this.#productionId)
    for (const seed of redelivered) await this.#deliver(seed, 0)
    for (;;) {
      const isOver = await this.#post(`${this.#of}/edits/undo`).then(
        () => false,
        (error: Error) => /nothing to undo/i.test(error.message),
      )
      if (isOver) break
    }
    // One that rests on another can go only after it: as long as any goes, there is hope for the rest.
    let reason = ''
    for (let isMoving = true; isMoving; ) {
      isMoving = false
      reason = ''
      for (const mend of (await this.#mends()).filter(({ state }) => state === 'done'))
        await this.#post(`/mends/${mend.id}/undo`).then(
          () => {
            isMoving = true
          },
          (error: Error) => {
            reason ||= error.message
          },
        )
    }
    const left = (await this.#mends()).filter(({ state }) => state === 'done' || state === 'waiting')
    if (left.length) throw new Error(`${left.length} mends could not be taken back, the first as: ${reason}`)
    for (const { key, decision } of await this.#findings(this.#cutId))
      if (decision) await this.#post(`/cuts/${this.#cutId}/decisions/withdraw`, { findingKey: key })
    await pause(300)
  }
}

/** Another picture under the timecode, the reel and the length of a clip. */
async function makeOther(of: string, seed: number, path: string): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const code = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-i', of, '-map', '0:v', '-map', '0:a', '-vf', 'negate'],
    ...['-c:v', 'mjpeg', '-q:v', '5', '-pix_fmt', 'yuvj420p', '-c:a', 'copy'],
    ...['-timecode', timecodeOf(seed), '-metadata:s:v:0', `reel_name=T${seed}`, path],
  ])
  if (code !== 0) throw new Error(`The encoder could not make ${path}.`)
}
