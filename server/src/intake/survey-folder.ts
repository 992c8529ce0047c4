import { stat } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import type { FolderSurvey } from '@ennick/contract'
import { claimsToBeMedia, suggestBoxLabel } from '@ennick/core'
import { explainFileError, PlainError } from '../errors.ts'
import { walkFolders } from './walk.ts'

/** More is not counted: a question before a volume is added is to be answered while somebody waits. */
const mostFiles = 50_000

/**
 * Counts what lies in a folder and below it, by names and sizes alone, and tells what they suggest for the label on its
 * box.
 * @param root a folder that may be used, where it really lies
 * @throws PlainError when it cannot be read
 */
export async function surveyFolder(root: string): Promise<FolderSurvey> {
  const folders: FolderSurvey['folders'] = []
  const media: { path: string; date: string }[] = []
  const above = `${basename(dirname(root))}/${basename(root)}`
  let [bytes, otherFiles] = [0, 0]
  let isWhole = true
  try {
    for await (const { folder, names } of walkFolders(root, {
      isForMedia: true,
      onUnreadable: () => {
        isWhole = false
      },
    })) {
      const here = { path: folder, mediaFiles: 0, otherFiles: 0, bytes: 0 }
      for (const name of names) {
        if (!claimsToBeMedia(name)) {
          here.otherFiles++
          continue
        }
        const info = await stat(join(root, folder, name)).catch(() => null)
        if (!info) continue
        here.mediaFiles++
        here.bytes += info.size
        media.push({ path: `${above}/${folder ? `${folder}/` : ''}${name}`, date: localDate(info.mtime) })
      }
      if (names.length) folders.push(here)
      bytes += here.bytes
      otherFiles += here.otherFiles
      if (media.length + otherFiles > mostFiles) {
        isWhole = false
        break
      }
    }
  } catch (error) {
    throw new PlainError('bad-folder', explainFileError(error, root), { status: 404 })
  }
  return { mediaFiles: media.length, otherFiles, bytes, isWhole, folders, suggested: suggestBoxLabel(media) }
}

/** The day on this machine's calendar, as cameras write it by theirs. */
const localDate = (at: Date): string =>
  [at.getFullYear(), at.getMonth() + 1, at.getDate()].map((part) => String(part).padStart(2, '0')).join('-')
