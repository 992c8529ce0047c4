import { Box, HStack, Spinner, Stack, Text } from '@chakra-ui/react'
import { CircleAlert } from 'lucide-react'
import type { ReactElement, ReactNode } from 'react'

/** Something went wrong: what, and what to do. Never only a colour. */
export function Problem({ message }: { message: string }): ReactElement {
  return (
    <HStack role="alert" align="start" gap="2" borderWidth="1px" borderColor="ink" px="3" py="2" bg="page">
      <Box pt="0.5">
        <CircleAlert size={16} aria-hidden />
      </Box>
      <Text overflowWrap="anywhere">{message}</Text>
    </HStack>
  )
}

export function Loading({ what }: { what: string }): ReactElement {
  return (
    <HStack className="loading" color="quiet" py="6" gap="3">
      <Spinner size="sm" /> <Text>Reading {what}…</Text>
    </HStack>
  )
}

/** A list that has nothing in it yet: why, and the next step. */
export function Empty({ title, children }: { title: string; children?: ReactNode }): ReactElement {
  return (
    <Stack py="10" gap="2" maxWidth="36rem">
      <Text fontSize="1.1rem" fontWeight="semibold">
        {title}
      </Text>
      <Box color="quiet">{children}</Box>
    </Stack>
  )
}
