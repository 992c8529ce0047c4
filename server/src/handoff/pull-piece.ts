import { stat } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import type { HashKind, MediaFacts } from '@ennick/core'
import { stampOfStats } from '../disk/fingerprint.ts'
import { type HeldFolder, withFolder } from '../disk/held-folder.ts'
import { hashFile, readBack } from '../engine/copy.ts'
import { cutOut, proveCutOut } from '../engine/cut-out.ts'
import { probe } from '../engine/probe.ts'
import { EndedFromOutside } from '../engine/process.ts'
import type { CopiedFile } from '../engine/stream-copy.ts'
import { anotherIsThere, linkIsThere, nameCopy, Refused, type VerifiedCopy } from '../intake/copier.ts'
import { dropUnfinished, partPath, removeParts } from '../placements/unfinished-files.ts'
import type { WorkContext } from '../queue/context.ts'
import type { PlannedPiece } from './pull-plan.ts'

/**
 * Copies a stretch of a file, and proves it against the original before it has its name. What is there already is held
 * against the original in the same way, and never overwritten.
 * @param source a path by which the original is reached while it is held open
 * @throws Refused where it cannot be copied, or something else has its name
 */
export async function copyPiece(
  { job, signal }: WorkContext,
  { clip, file, range, path }: PlannedPiece,
  source: string,
  to: HeldFolder,
  kind: HashKind,
): Promise<{ copy: VerifiedCopy; wasThere: boolean }> {
  const original: CopiedFile = { fullPath: source, facts: file.facts as MediaFacts }
  const name = basename(path)
  return withFolder(
    to,
    dirname(path),
    async (folder) => {
      await removeParts(folder, job.id)
      const compare = async (): Promise<{ copy: VerifiedCopy; wasThere: boolean }> => {
        const there = await folder.look(name)
        if (!there?.isFile()) throw new Refused(linkIsThere)
        const wrong = await wrongWith(folder.at(name), null).catch((error: Error) => {
          signal.throwIfAborted()
          // Of what is there that says nothing.
          if (error instanceof EndedFromOutside) throw error
          return error.message
        })
        if (wrong !== null) throw new Refused(anotherIsThere)
        const hash = await hashFile(folder.at(name), { kind, signal })
        return { copy: { path, ...stampOfStats(there), hash, wasDirect: null }, wasThere: true }
      }
      if (await folder.look(name)) return await compare()
      const part = basename(partPath(name, job.id, job.attempts))
      await folder.assertTakes(name, part)
      try {
        const { failure, soundHash } = await cutOut(
          original,
          range,
          { target: folder.at(part), reel: clip.reel },
          signal,
        )
        if (failure !== null) throw new Refused(`The stretch could not be copied: ${failure}.`)
        const wrong = await wrongWith(folder.at(part), soundHash)
        if (wrong !== null) throw new Refused(`What was copied is not the stretch: ${wrong}. Nothing was kept of it.`)
        const back = await readBack(folder.at(part), { kind, signal })
        await to.assertThere()
        const placed = await nameCopy(folder, part, name)
        if (!placed) return await compare()
        return { copy: { path, ...stampOfStats(placed), ...back }, wasThere: false }
      } finally {
        await dropUnfinished(folder.at(part))
      }
    },
    { make: true },
  )

  async function wrongWith(piece: string, soundHash: string | null): Promise<string | null> {
    const { size } = await stat(piece)
    const facts = await probe(piece, size, { countPackets: true, signal })
    return proveCutOut({ fullPath: piece, facts }, original, range, soundHash, signal)
  }
}
