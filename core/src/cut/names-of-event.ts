import { baseName, normalPath } from '../naming/index.ts'
import type { CutEvent } from './model.ts'

/** What a list calls the source of an event: its name, and that of the file at its path. */
export const namesOfEvent = ({ clipName, path }: CutEvent): string[] =>
  [
    clipName,
    // Some lists give a whole path of their system where the name belongs.
    clipName?.includes('\\') ? baseName(clipName) : null,
    path === null ? null : baseName(normalPath(path)),
  ].filter((name): name is string => name !== null)
