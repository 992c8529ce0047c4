import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { dataFolderMark, isPassedOver, marksDataFolder } from '@ennick/core'
import { namedDataFolder, settingsName } from '../config.ts'

/** Whether an Ennick keeps its data in a folder, by the mark in it. */
export const isDataFolder = (folder: string): boolean =>
  existsSync(folder) && readdirSync(folder).some((name) => marksDataFolder(name))

/**
 * The data folder, made and marked on the first start. What lies below it by certain names is Ennick's own from then
 * on, caches that let go of files among them: so it begins in a folder in which nothing of anybody's is.
 * @throws Error in a sentence for a folder that holds other things
 */
export function openDataFolder(): string {
  mkdirSync(namedDataFolder(), { recursive: true })
  // Where it really lies is known once it is there: folders on the way may be links.
  const folder = namedDataFolder()
  const others = readdirSync(folder).filter((name) => name !== settingsName && !isPassedOver(name))
  if (others.length && !isDataFolder(folder)) {
    const named = `${others.slice(0, 3).join(', ')}${others.length > 3 ? ', …' : ''}`
    throw new Error(
      `${folder} is no data folder of Ennick and holds other things (${named}): nothing was started. ` +
        'Let ENNICK_DATA name a folder that is empty, or that is not there yet.',
    )
  }
  // A volume may lie around it: scans and searches pass it over.
  writeFileSync(join(folder, dataFolderMark), '', { flag: 'a' })
  return folder
}

/** Where a data folder lay when Ennick started in it last; null when that was where it is, or is not known. */
export function whereItLay(folder: string): string | null {
  const mark = join(folder, dataFolderMark)
  // Those of older versions say nothing.
  const noted = existsSync(mark) ? readFileSync(mark, 'utf8').trim() : ''
  return noted === '' || noted === folder ? null : noted
}

/** Writes down where a data folder lies, once all that it holds is known there. */
export const noteDataFolder = (folder: string): void => writeFileSync(join(folder, dataFolderMark), `${folder}\n`)
