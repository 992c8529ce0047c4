import { Box, Button, chakra, HStack, Text } from '@chakra-ui/react'
import type { PairDetail } from '@ennick/contract'
import type { ReactElement } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { BothPictures } from '../../parts/both-pictures.tsx'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { FilePlace } from '../../parts/file-place.tsx'
import { HistoryList } from '../../parts/history-list.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section, Sheet } from '../../parts/sheet.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { when } from '../../parts/words.ts'
import { useViewer } from '../../viewer/address.ts'

/** One pair with all of its evidence. */
export function PairSheet({ pairId, onClose }: { pairId: string | null; onClose: () => void }): ReactElement {
  const production = useProduction()
  const detail = useRead('readPair', pairId === null ? null : { params: { pairId } })
  const data = detail.data
  const viewer = useViewer()
  return (
    <Sheet title={data?.pair.name ?? 'Pair'} isOpen={pairId !== null} onClose={onClose}>
      {detail.isPending && <Loading what="the pair" />}
      {detail.error && <Problem message={detail.error.message} />}
      {data && (
        <>
          <Box mb="5">
            <HStack gap="3" fontSize="1.1rem">
              <StateWord word={data.pair.verdict} />
            </HStack>
            <Text>{data.pair.why}</Text>
            {data.pair.verdict === 'mismatched' && data.copy && (
              <Restamp pairId={data.pair.id} copy={data.copy} onDone={onClose} />
            )}
          </Box>
          {data.strip && (
            <Section title="Span">
              <LargeStrip strip={data.strip} />
            </Section>
          )}
          {data.frames.length > 0 && (
            <Section
              title="Pictures of both"
              action={
                <Button
                  size="xs"
                  variant="outline"
                  onClick={() => viewer.open({ clipId: data.clipId, sideId: 'original', withId: data.pair.id })}
                >
                  Compare them frame by frame
                </Button>
              }
            >
              <BothPictures frames={data.frames} madeWord="The made item" />
            </Section>
          )}
          <Section
            title="Evidence"
            action={
              <Text color="quiet" fontSize="0.85rem">
                compared {when(data.checkedAt)}
              </Text>
            }
          >
            {data.comparison ? (
              <EvidenceList rows={data.comparison} expected="The original" found="What was made" />
            ) : (
              <Text color="quiet">The two were not compared yet. Check again in the ledger.</Text>
            )}
          </Section>
          <Section title="Files">
            <FileLines title="Original" files={data.originalFiles.map((file) => ({ ...file, part: null }))} />
            <FileLines title="Made" files={data.madeFiles} />
            {data.nameToday !== null && <Rename pairId={data.pair.id} name={data.nameToday} />}
            <Untie pair={data.pair} onDone={onClose} />
          </Section>
          <Section title="Made how">
            <Text>{data.pair.recipe ?? madeHow[data.pair.origin]}</Text>
            {data.recordings.length > 0 && (
              <Text>With the sound of {data.recordings.join(', ')}, as it was synced</Text>
            )}
            {data.viewingLut && <Text>Viewing LUT burnt in: {data.viewingLut}</Text>}
            <Text color="quiet">
              Tied {when(data.createdAt)} to{' '}
              <chakra.a
                as={Link}
                {...{ to: `/p/${production.id}/clips?clip=${data.clipId}` }}
                color="tide.fg"
                textDecoration="underline"
              >
                {data.clipName}
              </chakra.a>
            </Text>
          </Section>
          <Section title="History">
            <HistoryList lines={data.history} />
          </Section>
        </>
      )}
    </Sheet>
  )
}

/** How an item came about that no recipe has made. */
const madeHow = {
  adopted: 'Made elsewhere; Ennick adopted it and will never delete it.',
  made: 'A copy of an item that was made elsewhere, set right by Ennick.',
}

function Restamp({ pairId, copy, onDone }: { pairId: string; copy: string; onDone: () => void }): ReactElement {
  const production = useProduction()
  const restamp = useChange('restamp', onDone)
  return (
    <Box my="2">
      <Button
        size="xs"
        loading={restamp.isPending}
        onClick={() => restamp.mutate({ params: { productionId: production.id }, body: { pairIds: [pairId] } })}
      >
        Restamp: a copy {copy}
      </Button>
      <Text color="quiet" fontSize="0.9rem">
        No picture is encoded, and this file is not touched. It can be taken back in Mend.
      </Text>
      {restamp.error && <Problem message={restamp.error.message} />}
    </Box>
  )
}

function Rename({ pairId, name }: { pairId: string; name: string }): ReactElement {
  const production = useProduction()
  const rename = useChange('renameMade')
  const [left] = rename.data?.left ?? []
  return (
    <Box my="2">
      <Button
        size="xs"
        variant="outline"
        loading={rename.isPending}
        onClick={() => rename.mutate({ params: { productionId: production.id }, body: { pairIds: [pairId] } })}
      >
        Rename to {name}
      </Button>
      <Text color="quiet" fontSize="0.9rem">
        So its recipe would name it now. It can be taken back in Mend.
      </Text>
      {(rename.error || left) && <Problem message={rename.error?.message ?? left?.reason ?? ''} />}
    </Box>
  )
}

const afterUntying = {
  adopted: 'Its files stay where they are, and wait for their original again.',
  made: 'Its files go into the folder “untied” below the place of made files. It can be taken back in Mend.',
}

function Untie({ pair, onDone }: { pair: PairDetail['pair']; onDone: () => void }): ReactElement {
  const untie = useChange('untiePair', onDone)
  return (
    <Box my="2">
      <Button
        size="xs"
        variant="outline"
        loading={untie.isPending}
        onClick={() => untie.mutate({ params: { pairId: pair.id } })}
      >
        Untie it, and keep its files
      </Button>
      <Text color="quiet" fontSize="0.9rem">
        {afterUntying[pair.origin]}
      </Text>
      {untie.error && <Problem message={untie.error.message} />}
    </Box>
  )
}

function FileLines({
  title,
  files,
}: {
  title: string
  files: readonly { path: string; presence: string; part: string | null }[]
}): ReactElement {
  return (
    <Box mb="2">
      <Text color="quiet">{title}</Text>
      {files.map((file) => (
        <HStack key={file.path} gap="3" align="baseline" py="0.5">
          <Box width="4.5rem" flexShrink="0">
            <StateWord word={file.presence} />
          </Box>
          <FilePlace path={file.path} />
          {file.part && file.part !== 'whole' && <Text color="quiet">{file.part}</Text>}
        </HStack>
      ))}
    </Box>
  )
}
