import { Box, Button, Flex, HStack, Text } from '@chakra-ui/react'
import type { ClipView, ViewSide } from '@ennick/contract'
import type { ReactElement } from 'react'
import { StateWord } from '../parts/state-word.tsx'
import { bytes } from '../parts/words.ts'
import { dataRate, whichFile } from './frames.ts'
import type { Pace } from './stage.tsx'

/** What a clip can be looked at in: which is on, what it is, and how it played. */
export function SideList({
  view,
  side,
  other,
  paces,
  onSide,
  onCompare,
}: {
  view: ClipView
  side: ViewSide | null
  other: ViewSide | null
  paces: ReadonlyMap<string, Pace>
  onSide: (sideId: string) => void
  onCompare: (sideId: string | null) => void
}): ReactElement {
  return (
    <Box role="group" aria-label="What it can be looked at in">
      {view.sides.map((each, index) => {
        const isOn = each.id === side?.id
        const isOther = each.id === other?.id
        const pace = paces.get(each.id)
        const { word } = whichFile(each)
        return (
          <Box
            key={each.id}
            borderLeftWidth="3px"
            borderColor={isOn ? 'tide.solid' : isOther ? 'tide.emphasized' : 'transparent'}
            pl="2"
            py="2"
            borderTopWidth={index ? '1px' : '0'}
            borderTopColor="rule"
            data-testid="side"
          >
            <Flex align="baseline" gap="2">
              <Text fontWeight="semibold" flex="1">
                {index + 1} {word}
                {isOn ? ', shown' : isOther ? ', compared' : ''}
              </Text>
              <StateWord word={each.verdict ?? each.presence} />
            </Flex>
            <Text fontSize="0.85rem">
              {[each.raster, each.codec, dataRate(each), bytes(each.sizeBytes)].filter(Boolean).join(' · ')}
            </Text>
            {each.recipe && (
              <Text fontSize="0.85rem" color="quiet">
                {each.recipe}
              </Text>
            )}
            <Text fontSize="0.78rem" color="quiet" fontFamily="mono" overflowWrap="anywhere">
              {each.volumeLabel}: {each.path}
            </Text>
            {each.basis !== 'timecode' && each.kind !== 'original' && view.startFrame !== null && (
              <Text fontSize="0.85rem">
                {each.basis === 'time'
                  ? 'Of another rate: its frames stand beside the original’s by time.'
                  : 'It shares no timecode with the original: frames stand beside each other from the first.'}
              </Text>
            )}
            {pace && (
              <Text fontSize="0.85rem" data-testid="pace" fontVariantNumeric="tabular-nums">
                Played at {pace.framesPerSecond.toFixed(1)} of {pace.wantedPerSecond.toFixed(1)} frames per second
                {pace.framesPerSecond < 0.95 * pace.wantedPerSecond ? ': not in real time' : ''}
              </Text>
            )}
            <HStack gap="1" mt="1">
              <Button size="xs" variant="outline" disabled={isOn} onClick={() => onSide(each.id)}>
                Show it
              </Button>
              {!isOn && side && each.raster !== '' && (
                <Button size="xs" variant="outline" onClick={() => onCompare(isOther ? null : each.id)}>
                  {isOther ? 'End the comparison' : `Compare with the ${side.kind}`}
                </Button>
              )}
            </HStack>
            {isOther || (isOn && other) ? <Differences side={each} /> : null}
          </Box>
        )
      })}
    </Box>
  )
}

/** How the facts of a made item compare with its original's. */
function Differences({ side }: { side: ViewSide }): ReactElement | null {
  if (side.kind === 'original') return null
  if (!side.comparison) return <Text fontSize="0.85rem">Its facts were not compared with the original’s yet.</Text>
  const different = side.comparison.filter(({ agrees }) => !agrees)
  const alike = side.comparison.length - different.length
  return (
    <Box mt="1" fontSize="0.85rem" data-testid="differences">
      {different.map(({ aspect, difference, expected, found }) => (
        <Text key={aspect} fontWeight="semibold">
          {aspect}: {difference ?? `${found} instead of ${expected}`}
        </Text>
      ))}
      <Text color="quiet">
        {different.length === 0 ? `All ${alike} facts agree` : `${alike} facts agree`}
        {side.comparison.some(({ aspect }) => aspect === 'pictures') ? '' : '; its pictures were not compared'}
      </Text>
    </Box>
  )
}
