import { Dialog as Base, CloseButton, Portal } from '@chakra-ui/react'
import type { ReactElement, ReactNode } from 'react'
import { useEscape } from './keys.ts'

/** A question in the middle of the page. */
export function Dialog({
  title,
  isOpen,
  onClose,
  children,
  footer,
  size = 'lg',
}: {
  title: string
  isOpen: boolean
  onClose: () => void
  children: ReactNode
  footer?: ReactNode
  size?: 'md' | 'lg' | 'xl'
}): ReactElement {
  useEscape(isOpen, onClose)
  return (
    <Base.Root
      open={isOpen}
      onOpenChange={({ open }) => !open && onClose()}
      size={size}
      scrollBehavior="inside"
      lazyMount
      unmountOnExit
    >
      <Portal>
        <Base.Backdrop bg="blackAlpha.400" />
        <Base.Positioner>
          <Base.Content bg="page" shadow="none" borderWidth="1px" borderColor="rule">
            <Base.Header pb="2">
              <Base.Title fontSize="1.15rem">{title}</Base.Title>
              <Base.CloseTrigger asChild>
                <CloseButton size="sm" aria-label="Close" />
              </Base.CloseTrigger>
            </Base.Header>
            <Base.Body>{children}</Base.Body>
            {footer && <Base.Footer>{footer}</Base.Footer>}
          </Base.Content>
        </Base.Positioner>
      </Portal>
    </Base.Root>
  )
}
