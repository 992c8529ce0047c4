/**
 * What the address will be after changes that are still under way. A second change before the first has arrived builds
 * on it: otherwise what is typed and what is clicked at once would undo each other. Changes arrive one after the other,
 * so an earlier one that arrives does not mean that the latest has.
 */
export class AddressUnderWay {
  #latest: { readonly path: string; readonly search: string } | null = null

  /** What the next change builds on, given the address of the page now. */
  base(path: string, search: string): string {
    return this.#latest?.path === path ? this.#latest.search : search
  }

  start(path: string, search: string): void {
    this.#latest = { path, search }
  }

  arrived(search: string): void {
    if (this.#latest?.search === search) this.#latest = null
  }

  /** Somebody went back or forth: what was under way is so no more. */
  forget(): void {
    this.#latest = null
  }
}
