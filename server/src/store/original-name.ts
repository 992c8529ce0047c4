import { basename, extname } from 'node:path'
import type { KnownClip } from './known-material.ts'

/** What an original is called: stills and takes of several files by their clip, one file by itself. */
export const originalName = ({ main, files, name }: Pick<KnownClip, 'main' | 'files' | 'name'>): string =>
  main.sequence || files.length > 1 ? `${name}${extname(main.path)}` : basename(main.path)
