import { Box } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { Slider } from '../../parts/slider.tsx'

/** Two pictures of one shape, laid over each other under a line that can be drawn across. */
export function Wipe({
  before,
  after,
  isOld = false,
}: {
  before: string
  after: string
  isOld?: boolean
}): ReactElement {
  const [line, setLine] = useState(50)
  return (
    <>
      <Box position="relative" opacity={isOld ? 0.6 : 1} data-testid="wipe">
        <img src={after} alt="After" style={{ width: '100%', display: 'block' }} />
        <img
          src={before}
          alt="Before"
          style={{
            position: 'absolute',
            inset: 0,
            width: '100%',
            height: '100%',
            clipPath: `inset(0 ${100 - line}% 0 0)`,
          }}
        />
        <Box position="absolute" top="0" bottom="0" width="2px" bg="page" style={{ left: `${line}%` }} />
      </Box>
      <Slider label="Before and after" low="after" high="before" value={line} onChange={setLine} />
    </>
  )
}
