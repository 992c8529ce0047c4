import { chakra } from '@chakra-ui/react'
import type { ReactElement, ReactNode } from 'react'
import { Link } from 'react-router'

/** A word in a text that leads to another page. */
export function Go({ to, children }: { to: string; children: ReactNode }): ReactElement {
  return (
    <chakra.a
      as={Link}
      {...{ to }}
      color="tide.fg"
      textDecoration="underline"
      textDecorationColor="tide.emphasized"
      textUnderlineOffset="3px"
    >
      {children}
    </chakra.a>
  )
}
