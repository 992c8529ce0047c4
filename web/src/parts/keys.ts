import { useEffect, useLayoutEffect, useRef } from 'react'
import { flushSync } from 'react-dom'

/** Whether a key belongs to the field that has the focus. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

/** Whether a sheet, dialog or menu lies over the page and has the keys. */
const isCovered = (): boolean =>
  document.querySelector(
    '[role="dialog"][data-state="open"], [role="alertdialog"][data-state="open"], [role="menu"][data-state="open"]',
  ) !== null

/** What a key does. One that answers `false` did not want the key: it is left to whoever listens next. */
// biome-ignore lint/suspicious/noConfusingVoidType: most keys answer nothing
type KeyAction = (event: KeyboardEvent) => void | boolean

/**
 * Listens to plain keys of the page while nothing is typed and nothing lies over it. Those of the whole app
 * (`isOfApp`) are asked before those of a stop, in whatever order the two came into the page.
 */
export function usePageKeys(keys: Record<string, KeyAction>, { isOfApp = false } = {}): void {
  const current = useRef(keys)
  current.current = keys
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        event.defaultPrevented ||
        isTyping(event.target) ||
        isCovered()
      )
        return
      const action = current.current[event.key]
      if (!action) return
      // Enter and Space on a focused control are its own.
      if (
        (event.key === 'Enter' || event.key === ' ') &&
        event.target instanceof HTMLElement &&
        /^(BUTTON|A)$/.test(event.target.tagName)
      )
        return
      // What a key does is drawn before the next one comes: two in a row may not be taken for one.
      // biome-ignore lint/suspicious/noConfusingVoidType: as the action answers
      const answer = flushSync((): void | boolean => action(event))
      if (answer !== false) event.preventDefault()
    }
    window.addEventListener('keydown', listen, isOfApp)
    return () => window.removeEventListener('keydown', listen, isOfApp)
  }, [isOfApp])
}

/** What lies over the page and may be put away, the uppermost last. */
const covers: { current: () => void }[] = []

/**
 * Puts away what lies over the page, from the moment at which it is drawn: the dialogs of the library listen to Escape
 * only some frames later, and would lose a quick one. What they have taken is left to them.
 */
export function useEscape(isOpen: boolean, onClose: () => void): void {
  const current = useRef(onClose)
  current.current = onClose
  useLayoutEffect(() => {
    if (!isOpen) return
    covers.push(current)
    const listen = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape' || event.defaultPrevented || event.isComposing || covers.at(-1) !== current) return
      event.preventDefault()
      current.current()
    }
    window.addEventListener('keydown', listen)
    return () => {
      window.removeEventListener('keydown', listen)
      covers.splice(covers.indexOf(current), 1)
    }
  }, [isOpen])
}

/** Listens to Ctrl+Z and Ctrl+Shift+Z (or Ctrl+Y) while nothing is typed; a field has its own undo. */
export function useUndoKeys(actions: { onUndo: () => void; onRedo: () => void }): void {
  const current = useRef(actions)
  current.current = actions
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || isTyping(event.target) || isCovered()) return
      const key = event.key.toLowerCase()
      const action =
        key === 'z' && !event.shiftKey
          ? current.current.onUndo
          : key === 'y' || key === 'z'
            ? current.current.onRedo
            : null
      if (!action) return
      event.preventDefault()
      action()
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [])
}
