import { statfs } from 'node:fs/promises'

/** Bytes that are free to be written where a path lies. @throws the system's error where nothing lies there */
export async function freeBytes(path: string): Promise<number> {
  const { bavail, bsize } = await statfs(path)
  return Number(bavail) * Number(bsize)
}
