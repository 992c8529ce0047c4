import { notifyManager } from '@tanstack/react-query'

/** What is held longer than this is no press: the page goes on learning. */
const longestPressMilliseconds = 2000

const pressable = 'button, a, label, summary, input[type=checkbox], input[type=radio], [role=button], [role=option]'

/**
 * While a button is down, the page does not show what it learns meanwhile: a line that comes in above would move the
 * button away between pressing and letting go, and the press would be lost, or be one on what came in its place.
 */
export function holdStillWhilePressed(page: Document): void {
  let waiting: (() => void)[] | null = null
  let longest: ReturnType<typeof setTimeout> | undefined

  const goOn = (): void => {
    clearTimeout(longest)
    const learned = waiting ?? []
    waiting = null
    for (const show of learned) show()
  }
  const press = ({ target }: Event): void => {
    if (waiting || !(target instanceof Element && target.closest(pressable))) return
    waiting = []
    longest = setTimeout(goOn, longestPressMilliseconds)
  }
  // The click comes right behind the release: what was learned is shown after it.
  const release = (): void => {
    if (waiting) setTimeout(goOn)
  }

  notifyManager.setScheduler((show) => {
    if (waiting) waiting.push(show)
    else setTimeout(show)
  })
  page.addEventListener('pointerdown', press, true)
  for (const ending of ['pointerup', 'pointercancel', 'dragend']) page.addEventListener(ending, release, true)
}
