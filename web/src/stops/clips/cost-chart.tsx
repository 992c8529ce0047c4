import { Box, Text, useToken } from '@chakra-ui/react'
import type { NeedsReport } from '@ennick/contract'
import type { ReactElement } from 'react'
import { Bar, BarChart, LabelList, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { bytes, count, minutes } from '../../parts/words.ts'

/**
 * Bytes and minutes of each choice for the same clips, side by side.
 * @param height of the bars, which whoever shows them keeps free before they are there
 */
export default function CostChart({
  choices,
  clips,
  height,
}: {
  choices: NeedsReport['choices']
  clips: number
  height: string
}): ReactElement {
  const [ink] = useToken('colors', ['ink'])
  const data = choices.map((choice) => ({
    name: choice.name,
    bytes: choice.bytes,
    minutes: choice.minutes ?? 0,
    bytesLabel: choice.bytes === 0 ? 'nothing more' : `${choice.exact ? '' : 'about '}${bytes(choice.bytes)}`,
    minutesLabel:
      choice.minutes === null ? 'not known yet' : `${choice.atLeast ? 'at least ' : ''}${minutes(choice.minutes)}`,
  }))
  const chart = (key: 'bytes' | 'minutes', label: string, names: boolean): ReactElement => (
    <ResponsiveContainer>
      <BarChart data={data} layout="vertical" margin={{ left: 0, right: 90, top: 0, bottom: 0 }}>
        <XAxis type="number" hide />
        <YAxis
          type="category"
          dataKey="name"
          width={names ? 230 : 1}
          tick={names ? { fill: ink, fontSize: 13 } : false}
          axisLine={false}
          tickLine={false}
        />
        <Bar
          dataKey={key}
          fill="var(--chakra-colors-tide-solid)"
          barSize={14}
          minPointSize={1}
          isAnimationActive={false}
        >
          <LabelList dataKey={label} position="right" fill={ink} fontSize={13} />
        </Bar>
      </BarChart>
    </ResponsiveContainer>
  )
  return (
    <Box display="grid" gridTemplateColumns="3fr 2fr" gap="4" width="100%" color="ink">
      <Box>
        <Text fontWeight="semibold" fontSize="0.95rem">
          Bytes, for {count(clips, 'clip')}
        </Text>
        <Box height={height}>{chart('bytes', 'bytesLabel', true)}</Box>
      </Box>
      <Box>
        <Text fontWeight="semibold" fontSize="0.95rem">
          Minutes on this machine
        </Text>
        <Box height={height}>{chart('minutes', 'minutesLabel', false)}</Box>
      </Box>
    </Box>
  )
}
