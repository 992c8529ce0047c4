import type { EvidenceRow } from '@ennick/core'

/** A job that could not be done, with its plain sentence, the log behind it and the checks that failed. */
export class JobFailure extends Error {
  override readonly name = 'JobFailure'
  readonly log: string | null
  readonly checks: EvidenceRow[] | null
  constructor(message: string, options: { log?: string; checks?: EvidenceRow[] } = {}) {
    super(message)
    this.log = options.log ?? null
    this.checks = options.checks ?? null
  }
}
