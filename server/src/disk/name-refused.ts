import { nameTrouble } from '@ennick/core'

/** A disk cannot hold a name that others can. */
export class NameRefused extends Error {
  override readonly name = 'NameRefused'
  constructor(folder: string, refused: string, trouble: string) {
    super(`The disk of ${folder} takes no name like “${refused}”: ${trouble}. Choose a place on another disk.`)
  }
}

/** How file systems say so, in a folder that is there: some as if the new name did not exist. */
const refusals = new Set(['ENOENT', 'EINVAL', 'EILSEQ', 'EPROTO'])

/**
 * What a failure to give a name in a folder that is there means.
 * @returns a NameRefused where the disk does not take the name; the failure itself otherwise
 */
export function whyNotNamed(error: unknown, folder: string, name: string): unknown {
  const trouble = refusals.has((error as NodeJS.ErrnoException).code ?? '') ? nameTrouble(name) : null
  return trouble === null ? error : new NameRefused(folder, name, trouble)
}
