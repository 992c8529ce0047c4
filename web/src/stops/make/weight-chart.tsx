import { Box, Text, useToken } from '@chakra-ui/react'
import type { MakePlan } from '@ennick/contract'
import type { ReactElement } from 'react'
import { Bar, BarChart, LabelList, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { bytes, minutes } from '../../parts/words.ts'

const timeOf = (entry: MakePlan['comparison'][number]): string =>
  entry.minutes === null ? 'time not measured' : minutes(entry.minutes)

/** What each recipe would weigh for the same clips. */
export default function WeightChart({ plan, chosen }: { plan: MakePlan; chosen: string }): ReactElement {
  const [ink] = useToken('colors', ['ink'])
  const data = plan.comparison.map((entry) => ({
    name: `${entry.recipeId === chosen ? '▸ ' : ''}${entry.name}`,
    bytes: entry.bytes,
    label: `${entry.basis === 'exact' ? '' : 'about '}${bytes(entry.bytes)}, ${timeOf(entry)}`,
  }))
  return (
    <Box>
      <Text fontWeight="semibold" fontSize="0.95rem" mb="1">
        The same clips by each recipe
      </Text>
      <Box height={`${data.length * 34 + 10}px`} color="ink">
        <ResponsiveContainer>
          <BarChart data={data} layout="vertical" margin={{ left: 0, right: 150, top: 0, bottom: 0 }}>
            <XAxis type="number" hide />
            <YAxis
              type="category"
              dataKey="name"
              width={250}
              tick={{ fill: ink, fontSize: 13 }}
              axisLine={false}
              tickLine={false}
            />
            <Bar dataKey="bytes" fill="var(--chakra-colors-tide-solid)" barSize={14} isAnimationActive={false}>
              <LabelList dataKey="label" position="right" fill={ink} fontSize={13} />
            </Bar>
          </BarChart>
        </ResponsiveContainer>
      </Box>
    </Box>
  )
}
