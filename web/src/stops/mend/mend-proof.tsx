import { Box, Flex, Text } from '@chakra-ui/react'
import type { MendProof as Proof } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { useRead } from '../../data/queries.ts'
import { BothPictures } from '../../parts/both-pictures.tsx'
import { FilePlace } from '../../parts/file-place.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** What a mend came to: read again from disk and from the cuts when somebody asks. */
export function MendProof({ mendId }: { mendId: string }): ReactElement {
  const proof = useRead('readMendProof', { params: { mendId } })
  if (proof.isPending) return <Loading what="what came of it" />
  if (proof.error) return <Problem message={proof.error.message} />
  const { clips, clipCount, uses, onOriginal } = proof.data
  const left = uses - onOriginal
  const rest = left ? `; ${left} still not, as the findings say` : ''
  return (
    <Box mt="2" data-testid="mend-proof">
      <Text fontWeight="semibold">
        {uses === 0
          ? 'No cut uses it now.'
          : `${formatNumber(onOriginal)} of ${count(uses, 'use')} on original${rest}.`}
      </Text>
      {clips.map((clip) => (
        <ClipProof key={clip.clipId} clip={clip} />
      ))}
      {clipCount > clips.length && (
        <Text color="quiet">
          The first {formatNumber(clips.length)} of {count(clipCount, 'clip')} were looked at again.
        </Text>
      )}
    </Box>
  )
}

function ClipProof({ clip }: { clip: Proof['clips'][number] }): ReactElement {
  const states = [...new Set(clip.uses.map(({ state }) => state))]
  return (
    <Box borderTopWidth="1px" borderColor="rule" py="2">
      <Flex gap="3" align="baseline" wrap="wrap">
        <Text fontWeight="semibold">{clip.name}</Text>
        <Text color="quiet">
          {clip.lies ? 'lies there now, with the size and time that are known' : 'does not lie there now'}
        </Text>
        {states.map((state) => (
          <StateWord key={state} word={state} times={clip.uses.filter((use) => use.state === state).length} />
        ))}
        {clip.pairs.map((pair) => (
          <Text key={pair.name} color="quiet">
            {pair.name}: {pair.verdict}
          </Text>
        ))}
      </Flex>
      {clip.paths.map((path) => (
        <FilePlace key={path} path={path} isQuiet />
      ))}
      <Box mt="1">
        <BothPictures frames={clip.frames} madeWord="The proxy" width="8rem" />
      </Box>
    </Box>
  )
}
