/**
 * Tells what somebody else changed from what a field wrote itself: a value that it sent comes back later, when more may
 * have been typed already, and must not take that away.
 */
export class Echoes {
  #sent: string[] = []

  send(value: string): void {
    this.#sent.push(value)
  }

  /** Whether a value that arrives was sent from here; those sent before it do not arrive any more. */
  isOwn(value: string): boolean {
    const at = this.#sent.indexOf(value)
    this.#sent = this.#sent.slice(at + 1)
    return at !== -1
  }
}
