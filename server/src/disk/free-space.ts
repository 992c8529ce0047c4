import { statfs } from 'node:fs/promises'
import { ask } from './answering.ts'

/**
 * Bytes that are free to be written where a path lies.
 * @param name by which people know the path
 * @throws the system's error where nothing lies there, NotAnswering where that hangs
 */
export async function freeBytes(path: string, name = path): Promise<number> {
  const { bavail, bsize } = await ask(name, () => statfs(path))
  return Number(bavail) * Number(bsize)
}
