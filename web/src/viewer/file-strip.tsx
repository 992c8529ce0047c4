import { Box } from '@chakra-ui/react'
import type { ReactElement, ReactNode } from 'react'

/** The strip along the lower edge of a picture that says at all times which file it is of. */
export const FileStrip = ({ children }: { children: ReactNode }): ReactElement => (
  <Box
    position="absolute"
    left="0"
    right="0"
    bottom="0"
    px="3"
    py="1"
    bg="rgba(20,19,17,0.78)"
    color="#efe8da"
    fontSize="0.85rem"
    data-testid="which-file"
  >
    {children}
  </Box>
)
