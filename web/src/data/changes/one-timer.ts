/** What is to happen in a while, in place of what was to happen before. */
export class OneTimer {
  #timer: ReturnType<typeof setTimeout> | undefined

  within(milliseconds: number, run: () => void): void {
    this.stop()
    this.#timer = setTimeout(run, milliseconds)
  }

  stop(): void {
    clearTimeout(this.#timer)
  }
}
