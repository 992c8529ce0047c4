import { Box, chakra, Grid, HStack, Text } from '@chakra-ui/react'
import { Fragment, type ReactElement, useState } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { addressOf } from '../../data/api.ts'
import { useRead } from '../../data/queries.ts'
import { HistoryList } from '../../parts/history-list.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section, Sheet } from '../../parts/sheet.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes } from '../../parts/words.ts'

/** Everything that is known of one clip. */
export function ClipSheet({ clipId, onClose }: { clipId: string | null; onClose: () => void }): ReactElement {
  const production = useProduction()
  const detail = useRead('readClip', clipId === null ? null : { params: { clipId } })
  const data = detail.data
  return (
    <Sheet title={data?.clip.name ?? 'Clip'} isOpen={clipId !== null} onClose={onClose}>
      {detail.isPending && <Loading what="the clip" />}
      {detail.error && <Problem message={detail.error.message} />}
      {data && (
        <>
          {data.clip.kind !== 'sound' && <Filmstrip key={data.clip.id} clipId={data.clip.id} />}
          {data.strip && (
            <Section title="Span">
              <LargeStrip strip={data.strip} />
            </Section>
          )}
          {data.factGroups.map((group) => (
            <Section key={group.title} title={group.title}>
              <Grid templateColumns="9rem 1fr" rowGap="1">
                {group.facts.map((fact) => (
                  <Fragment key={fact.label}>
                    <Text color="quiet">{fact.label}</Text>
                    <Text overflowWrap="anywhere">{fact.value}</Text>
                  </Fragment>
                ))}
              </Grid>
            </Section>
          ))}
          <Section title="Files of this clip">
            {data.files.map((file) => (
              <HStack key={file.path} gap="3" align="baseline" py="0.5">
                <StateWord word={file.presence} />
                <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" flex="1">
                  {file.path}
                </Text>
                <Text color="quiet">{bytes(file.sizeBytes)}</Text>
              </HStack>
            ))}
          </Section>
          <Section title="Made of it">
            {data.pairs.length === 0 && <Text color="quiet">Nothing yet.</Text>}
            {data.pairs.map((pair) => (
              <HStack key={pair.id} gap="3" py="0.5">
                <Box width="8rem">
                  <StateWord word={pair.verdict} />
                </Box>
                <chakra.a as={Link} {...{ to: `/p/${production.id}/pairs?pair=${pair.id}` }} color="tide.fg" textDecoration="underline">
                  {pair.name}
                </chakra.a>
              </HStack>
            ))}
          </Section>
          <Section title="Used in">
            {data.uses.length === 0 && <Text color="quiet">No cut uses it.</Text>}
            {data.uses.map((use) => (
              <HStack key={`${use.cutId}-${use.track}-${use.event}`} gap="3" py="0.5">
                <Box width="8rem">
                  <StateWord word={use.state} />
                </Box>
                <chakra.a as={Link} {...{ to: `/p/${production.id}/cuts/${use.cutId}` }} color="tide.fg" textDecoration="underline">
                  {use.cutName}
                </chakra.a>
                <Text color="quiet">
                  {use.track}, event {use.event}
                </Text>
              </HStack>
            ))}
          </Section>
          <Section title="History">
            <HistoryList lines={data.history} />
          </Section>
        </>
      )}
    </Sheet>
  )
}

/** Eight pictures over the clip's length. */
function Filmstrip({ clipId }: { clipId: string }): ReactElement {
  const [state, setState] = useState<'loading' | 'shown' | 'none'>('loading')
  return (
    <Box mb="5" bg="bg.subtle" minHeight="72px" display="flex" alignItems="center" justifyContent="center">
      {state !== 'none' && (
        <chakra.img
          src={addressOf('clipFilmstrip', { clipId })}
          alt="Filmstrip"
          width="100%"
          onLoad={() => setState('shown')}
          onError={() => setState('none')}
        />
      )}
      {state === 'none' && <Text color="quiet">No picture can be shown while its file is not here.</Text>}
    </Box>
  )
}
