import { Box, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'

/** Lines that are shown; the saved list has all that failed, was stopped or skipped. */
const mostShown = 200

/** Lines under a title with their number; nothing where there is none. */
export function Named({
  title,
  lines,
  total = lines.length,
}: {
  title: string
  lines: readonly string[]
  total?: number
}): ReactElement | null {
  if (lines.length === 0) return null
  const shown = lines.slice(0, mostShown)
  return (
    <Box mb="2">
      <Text fontWeight="semibold">
        {title}: {total}
      </Text>
      {shown.map((line, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines may be alike, and their order never changes
        <Text key={index} overflowWrap="anywhere">
          {line}
        </Text>
      ))}
      {total > shown.length && <Text>and {total - shown.length} more</Text>}
    </Box>
  )
}
