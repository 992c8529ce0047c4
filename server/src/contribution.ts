/**
 * What a later stop gives to an earlier one, which must not know of it: the earlier one says what it asks, the later
 * one gives its answer when the program is put together (stops.ts).
 */
export class Contribution<Answer> {
  readonly #question: string
  #answer: Answer | null = null

  /** @param question what is asked, for the error when nobody gave an answer */
  constructor(question: string) {
    this.#question = question
  }

  give(answer: Answer): void {
    this.#answer = answer
  }

  /** @throws Error when nothing was given */
  get given(): Answer {
    if (!this.#answer) throw new Error(`Nothing was put in for “${this.#question}”: see stops.ts.`)
    return this.#answer
  }
}
