/**
 * Work that stands still for a while. What does the work listens; the time that it stood still is left out of its
 * speed.
 */
export class Pause {
  readonly #listeners = new Set<(isOn: boolean) => void>()
  #since: number | null = null
  #milliseconds = 0

  get isOn(): boolean {
    return this.#since !== null
  }

  /** How long the work has stood still until now. */
  get milliseconds(): number {
    return this.#milliseconds + (this.#since === null ? 0 : Date.now() - this.#since)
  }

  set(isOn: boolean): void {
    if (isOn === this.isOn) return
    this.#milliseconds = this.milliseconds
    this.#since = isOn ? Date.now() : null
    for (const listener of this.#listeners) listener(isOn)
  }

  /** Waits until the work may go on. @throws the signal's reason when it is stopped meanwhile */
  async ended(signal: AbortSignal): Promise<void> {
    while (this.isOn && !signal.aborted)
      await new Promise<void>((resolve) => {
        const unlisten = this.listen((isOn) => isOn || done())
        const done = (): void => {
          unlisten()
          signal.removeEventListener('abort', done)
          resolve()
        }
        signal.addEventListener('abort', done)
      })
    signal.throwIfAborted()
  }

  /** @returns what ends the listening */
  listen(listener: (isOn: boolean) => void): () => void {
    this.#listeners.add(listener)
    if (this.isOn) listener(true)
    return () => this.#listeners.delete(listener)
  }
}
