import { execFile } from 'node:child_process'
import { readFile, readlink } from 'node:fs/promises'
import { hostname } from 'node:os'
import { promisify } from 'node:util'

const execute = promisify(execFile)

/**
 * When a process began, in words that no other process of the same number says; null when there is none of this number.
 * Numbers are given again: after a crash another program may have the one that was noted.
 */
export async function processStart(pid: number): Promise<string | null> {
  if (!Number.isInteger(pid) || pid <= 0) return null
  if (process.platform === 'linux') {
    const [stat, boot] = await Promise.all([
      readFile(`/proc/${pid}/stat`, 'utf8').catch(() => null),
      bootOfThisMachine(),
    ])
    // The program's name stands in brackets and may hold anything; the start, in ticks since boot, is the 20th word
    // after it (proc(5)).
    const words = stat?.slice(stat.lastIndexOf(')') + 2).split(' ')
    return words?.[0] && words[0] !== 'Z' && words[19] ? `${boot} ${words[19]}` : null
  }
  const { stdout } = await execute('ps', ['-p', String(pid), '-o', 'lstart=']).catch(() => ({ stdout: '' }))
  return stdout.trim() || null
}

const bootOfThisMachine = async (): Promise<string> =>
  (await readFile('/proc/sys/kernel/random/boot_id', 'utf8').catch(() => '')).slice(0, 8)

/** The words with which a process was started; null when they cannot be read. */
export async function processArguments(pid: number): Promise<string[] | null> {
  if (process.platform === 'linux') {
    const text = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => null)
    return text === null ? null : text.split('\0')
  }
  const { stdout } = await execute('ps', ['-p', String(pid), '-o', 'command=']).catch(() => ({ stdout: '' }))
  return stdout.trim() ? stdout.trim().split(' ') : null
}

/** The machine, and the part of it in which process numbers mean the same, as a container's are its own. */
export async function machineName(): Promise<string> {
  const space = await readlink('/proc/self/ns/pid').catch(() => '')
  return `${hostname()}-${space.replace(/\D/g, '')}`.replace(/[^A-Za-z0-9-]/g, '_')
}
