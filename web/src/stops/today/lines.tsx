import { Box } from '@chakra-ui/react'
import type { ReactElement, ReactNode } from 'react'

export const Lines = ({ children }: { children: ReactNode }): ReactElement => (
  <Box as="ul" listStyleType="none">
    {children}
  </Box>
)

export const Line = ({ children }: { children: ReactNode }): ReactElement => (
  <Box as="li" py="1">
    {children}
  </Box>
)
