import { Box, CloseButton, Drawer, Portal } from '@chakra-ui/react'
import type { ReactElement, ReactNode } from 'react'
import { useEscape } from './keys.ts'

/** A page that slides in from the right over a list; Escape puts it away. */
export function Sheet({
  title,
  isOpen,
  onClose,
  children,
}: {
  title: ReactNode
  isOpen: boolean
  onClose: () => void
  children: ReactNode
}): ReactElement {
  useEscape(isOpen, onClose)
  return (
    <Drawer.Root open={isOpen} onOpenChange={({ open }) => !open && onClose()} size="lg" lazyMount unmountOnExit>
      <Portal>
        <Drawer.Backdrop bg="blackAlpha.300" />
        <Drawer.Positioner>
          <Drawer.Content bg="page" borderLeftWidth="1px" borderColor="rule" shadow="none" maxWidth="640px">
            <Drawer.Header borderBottomWidth="1px" borderColor="rule" py="3">
              <Drawer.Title fontSize="1.15rem" overflowWrap="anywhere" pr="8">
                {title}
              </Drawer.Title>
              <Drawer.CloseTrigger asChild>
                <CloseButton size="sm" aria-label="Close" />
              </Drawer.CloseTrigger>
            </Drawer.Header>
            <Drawer.Body py="4">{children}</Drawer.Body>
          </Drawer.Content>
        </Drawer.Positioner>
      </Portal>
    </Drawer.Root>
  )
}

/** A titled part of a sheet or page. */
export function Section({
  title,
  action,
  children,
}: {
  title: string
  action?: ReactNode
  children: ReactNode
}): ReactElement {
  return (
    <Box as="section" mb="6">
      <Box
        display="flex"
        alignItems="baseline"
        justifyContent="space-between"
        borderBottomWidth="1px"
        borderColor="rule"
        mb="2"
        pb="1"
      >
        <Box as="h2" fontSize="0.95rem" fontWeight="semibold">
          {title}
        </Box>
        {action}
      </Box>
      {children}
    </Box>
  )
}
