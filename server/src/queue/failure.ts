import type { EvidenceRow } from '@ennick/core'
import { FolderLeft } from '../disk/held-folder.ts'
import { isLost } from '../disk/system-error.ts'
import type { JobResult } from '../store/job-types.ts'

/** A job that could not be done, with its plain sentence, the log behind it and the checks that failed. */
export class JobFailure extends Error {
  override readonly name = 'JobFailure'
  readonly log: string | null
  readonly checks: EvidenceRow[] | null
  /** The volume that was not there: the job is done again when it comes back. */
  readonly waitsForVolume: string | null
  /** What was done before it failed, for jobs that do many things. */
  readonly result: JobResult | null
  constructor(
    message: string,
    options: {
      log?: string
      checks?: EvidenceRow[]
      waitsForVolume?: string
      result?: JobResult
      cause?: unknown
    } = {},
  ) {
    super(message, { cause: options.cause })
    this.log = options.log ?? null
    this.checks = options.checks ?? null
    this.waitsForVolume = options.waitsForVolume ?? null
    this.result = options.result ?? null
  }
}

/**
 * A job that failed over a volume's root waits for the volume when the root was not there, or left; anything else waits
 * for nobody.
 */
export const waitsIfGone = (error: unknown, volumeId: string): { waitsForVolume?: string } =>
  isLost(error) || error instanceof FolderLeft || (error as NodeJS.ErrnoException).code === 'ENOENT'
    ? { waitsForVolume: volumeId }
    : {}
