import { Button, HStack } from '@chakra-ui/react'
import type { KeyboardEvent, ReactElement, ReactNode } from 'react'

/** How far a key goes in a list of tabs; to its first or last where it is not finite. */
const steps: Readonly<Record<string, number>> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  Home: Number.NEGATIVE_INFINITY,
  End: Number.POSITIVE_INFINITY,
}

/**
 * The views of a page or a dialog, and nothing else: what stands beside them is no child of it. Its chosen tab alone is
 * in the order of the Tab key, the others are reached by arrows (WAI-ARIA Authoring Practices, Tabs).
 */
export function TabList({ label, children }: { label: string; children: ReactNode }): ReactElement {
  const go = (event: KeyboardEvent<HTMLElement>) => {
    const step = steps[event.key]
    if (step === undefined || event.ctrlKey || event.metaKey || event.altKey) return
    const tabs = [...event.currentTarget.querySelectorAll<HTMLElement>('[role=tab]')]
    const at = tabs.indexOf(document.activeElement as HTMLElement)
    const next = Number.isFinite(step) ? (at + step + tabs.length) % tabs.length : step < 0 ? 0 : tabs.length - 1
    tabs[next]?.focus()
    tabs[next]?.click()
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <HStack role="tablist" aria-label={label} gap="1" wrap="wrap" onKeyDown={go}>
      {children}
    </HStack>
  )
}

/** One of several views; it stands in a list of tabs. */
export function Tab({
  isChosen,
  onChoose,
  children,
}: {
  isChosen: boolean
  onChoose: () => void
  children: ReactNode
}): ReactElement {
  return (
    <Button
      role="tab"
      aria-selected={isChosen}
      tabIndex={isChosen ? 0 : -1}
      size="sm"
      variant={isChosen ? 'subtle' : 'ghost'}
      onClick={onChoose}
    >
      {children}
    </Button>
  )
}
