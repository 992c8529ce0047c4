import { Box, Flex, Heading, Text } from '@chakra-ui/react'
import type { ReactElement, ReactNode } from 'react'

/** The frame of a stop: its answer as a heading, its actions beside it. */
export function Page({
  title,
  answer,
  actions,
  children,
  isTall = false,
}: {
  title: string
  answer?: ReactNode
  actions?: ReactNode
  children: ReactNode
  isTall?: boolean
}): ReactElement {
  return (
    <Flex
      as="main"
      direction="column"
      px="8"
      pt="5"
      pb={isTall ? '0' : '10'}
      flex="1"
      minHeight="0"
      overflowY={isTall ? 'hidden' : 'auto'}
    >
      <Flex align="start" justify="space-between" gap="6" mb="4">
        <Box minWidth="0">
          <Heading as="h1" fontSize="1.5rem" fontWeight="semibold" lineHeight="1.25">
            {title}
          </Heading>
          {answer && (
            <Text color="quiet" mt="0.5">
              {answer}
            </Text>
          )}
        </Box>
        {actions && (
          <Flex gap="2" flexShrink="0" wrap="wrap" justify="end">
            {actions}
          </Flex>
        )}
      </Flex>
      {children}
    </Flex>
  )
}
