import { HStack, Text } from '@chakra-ui/react'
import type { Today } from '@ennick/contract'
import { doesNotAnswer, nameSome } from '@ennick/core'
import type { ReactElement } from 'react'
import { Go } from '../../parts/go.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count, when } from '../../parts/words.ts'
import { Line } from './lines.tsx'

type VolumeAway = Today['volumesAway'][number]

const mostShown = 6

/** The volumes that are away: those of which something is missed one by one, and of the others how many they are. */
export function VolumesAway({ volumes }: { volumes: readonly VolumeAway[] }): ReactElement {
  const missed = volumes.filter(({ isMissed }) => isMissed)
  const shown = missed.length > mostShown + 1 ? missed.slice(0, mostShown) : missed
  const others = volumes.length - missed.length
  return (
    <>
      {volumes.length === 0 && <Line>Every volume is here.</Line>}
      {shown.map((volume) => (
        <Line key={volume.id}>
          <HStack gap="3" wrap="wrap">
            <StateWord word="away" />
            <b>{volume.label}</b>
            <Text color="quiet">{whyAway(volume)}</Text>
          </HStack>
          {volume.neededBy.length > 0 && <Text color="quiet">Needed by {nameSome(volume.neededBy)}</Text>}
          {lackOf([volume]) && <Text color="quiet">With it: {lackOf([volume])}</Text>}
        </Line>
      ))}
      {missed.length > shown.length && (
        <Line>
          <HStack gap="3" wrap="wrap">
            <StateWord word="away" />
            <Go to="intake">{count(missed.length - shown.length, 'more volume')}</Go>
            <Text color="quiet">{lackOf(missed.slice(shown.length))}</Text>
          </HStack>
        </Line>
      )}
      {others > 0 && (
        <Line>
          <Text color="quiet">
            {count(others, 'volume')} {others === 1 ? 'is' : 'are'} away and not missed: all picture and sound of{' '}
            {others === 1 ? 'it' : 'them'} is here as well
          </Text>
        </Line>
      )}
    </>
  )
}

const whyAway = ({ isAllowed, isAnswering, kind, lastSeenAt }: VolumeAway): string =>
  !isAllowed
    ? 'its folder is not among those that Ennick may use'
    : isAnswering
      ? `${kind}, last seen ${when(lastSeenAt)}`
      : `${kind}, ${doesNotAnswer}`

/** What is away with volumes: "12 clips, 3 pairs". */
function lackOf(volumes: readonly VolumeAway[]): string {
  const sum = (of: (volume: VolumeAway) => number): number => volumes.reduce((total, volume) => total + of(volume), 0)
  const [clips, notCompared] = [sum((one) => one.clips), sum((one) => one.notCompared)]
  const [pairs, others] = [sum((one) => one.pairs), sum((one) => one.others)]
  return [
    clips ? count(clips, 'clip') : '',
    notCompared ? `copies of ${count(notCompared, 'clip')} that nobody has compared` : '',
    pairs ? count(pairs, 'pair') : '',
    others ? count(others, 'other file') : '',
  ]
    .filter(Boolean)
    .join(', ')
}
