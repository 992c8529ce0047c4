import { type FileHandle, open } from 'node:fs/promises'
import { type PaddedWave, padWave } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import { readWave } from './riff.ts'

const pieceBytes = 4 * 1024 * 1024

/**
 * Copies a wave file with silence behind its sound, and reads both again: all but what says how long it is has to be the
 * same, byte for byte, up to the end of the sound and behind the silence.
 * @param to a path at which nothing is
 * @returns why there is no such copy; null when there is
 */
export async function padWaveCopy(
  from: string,
  to: string,
  samples: number,
  signal: AbortSignal,
): Promise<string | null> {
  const source = await open(from, 'r')
  try {
    const { size } = await source.stat()
    const { form, chunks, format } = await readWave(source)
    const plan = padWave({ form, bytes: size }, chunks, format, samples)
    if ('refusal' in plan) return plan.refusal
    const copy = await open(to, 'wx+')
    try {
      await write(source, copy, plan, size, signal)
      return await whyOther(source, copy, plan, size, signal)
    } finally {
      await copy.close()
    }
  } finally {
    await source.close()
  }
}

async function write(
  source: FileHandle,
  copy: FileHandle,
  { keepBytes, silenceBytes, goOnAt, patches }: PaddedWave,
  size: number,
  signal: AbortSignal,
): Promise<void> {
  let written = 0
  const put = async (bytes: Uint8Array): Promise<void> => {
    signal.throwIfAborted()
    await copy.write(bytes, 0, bytes.length, written)
    written += bytes.length
  }
  const copyRange = async (start: number, end: number): Promise<void> => {
    for (let at = start; at < end; at += pieceBytes) await put(await readAt(source, at, Math.min(pieceBytes, end - at)))
  }
  await copyRange(0, keepBytes)
  for (let at = 0; at < silenceBytes; at += pieceBytes)
    await put(new Uint8Array(Math.min(pieceBytes, silenceBytes - at)))
  await copyRange(goOnAt, size)
  for (const { at, bytes } of patches) await copy.write(bytes, 0, bytes.length, at)
  await copy.sync()
}

/**
 * Whether a copy is what was planned of its source, read from both: with nothing but silence and lengths changed.
 * @returns what is wrong, in words that go on after "because"; null when nothing is
 */
export async function whyOther(
  source: FileHandle,
  copy: FileHandle,
  { keepBytes, silenceBytes, goOnAt, patches }: PaddedWave,
  size: number,
  signal: AbortSignal,
): Promise<string | null> {
  const isSame = async (start: number, end: number, shift: number): Promise<boolean> => {
    for (let at = start; at < end; at += pieceBytes) {
      signal.throwIfAborted()
      const length = Math.min(pieceBytes, end - at)
      const [own, other] = [await readAt(source, at, length), await readAt(copy, at + shift, length)]
      for (const patch of patches) {
        const [first, last] = [patch.at - at - shift, patch.at - at - shift + patch.bytes.length]
        const [from, to] = [Math.max(0, first), Math.min(own.length, last)]
        if (from < to) own.set(patch.bytes.subarray(from - first, to - first), from)
      }
      if (!own.equals(other)) return false
    }
    return true
  }
  const behind = keepBytes + silenceBytes
  const isKept = (await isSame(0, keepBytes, 0)) && (await isSame(goOnAt, size, behind - goOnAt))
  if (!isKept || (await copy.stat()).size !== behind + size - goOnAt)
    return 'the copy reads back otherwise than it was written: the disk may be failing'
  const silence = await readAt(copy, keepBytes, Math.min(pieceBytes, silenceBytes))
  return silence.every((byte) => byte === 0) ? null : 'what is behind its sound is no silence'
}
