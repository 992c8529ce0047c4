/** Of which cut of which production a production is a trial: a copy of the cut with what it uses. */
export interface TrialOf {
  readonly productionId: string
  readonly cutId: string
  /** The copy of the cut in the trial. */
  readonly copyId: string
  /** The clips of the trial and those that they are copies of. */
  readonly clips: readonly (readonly [copy: string, original: string])[]
}
