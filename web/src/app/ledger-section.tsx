import { Box, Button, chakra, HStack, Link, Stack, Text } from '@chakra-ui/react'
import type { LedgerCopies } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { FolderPicker } from '../parts/folder-picker.tsx'
import { Loading, Problem } from '../parts/notices.tsx'
import { Section } from '../parts/sheet.tsx'
import { StateWord } from '../parts/state-word.tsx'
import { bytes, count, when } from '../parts/words.ts'

/** Copies that are listed before more are asked for. */
const mostListed = 4

/** Whether the ledger outlives its disk, and how to begin with a copy of it. */
export function LedgerSection(): ReactElement {
  const ledger = useRead('listLedgerCopies', {})
  const copy = useChange('copyLedger')
  const [isChoosing, setChoosing] = useState(false)
  const isCopying = copy.isPending || ledger.data?.isCopying === true
  return (
    <Section
      title="The ledger itself"
      action={
        <HStack>
          <Button size="xs" variant="ghost" onClick={() => setChoosing(true)}>
            A second place…
          </Button>
          <Button size="xs" variant="outline" loading={isCopying} loadingText="Copying" onClick={() => copy.mutate({})}>
            Copy it now
          </Button>
        </HStack>
      }
    >
      {ledger.isPending && <Loading what="the copies of the ledger" />}
      {ledger.error && <Problem message={ledger.error.message} />}
      {copy.error && <Problem message={copy.error.message} />}
      {ledger.data && <Kept ledger={ledger.data} />}
      {isChoosing && <ChooseSecond ledger={ledger.data} onClose={() => setChoosing(false)} />}
    </Section>
  )
}

function Kept({ ledger }: { ledger: LedgerCopies }): ReactElement {
  const { copies, elsewhere, folder, problem } = ledger
  const [isLong, setLong] = useState(false)
  const listed = isLong ? copies : copies.slice(0, mostListed)
  return (
    <>
      {problem && <Problem message={problem} />}
      <Text data-testid="ledger-answer">{answer(ledger)}</Text>
      <Text color="quiet" mb="2">
        A copy holds every production with its volumes, clips, pairs, cuts, mends, decisions and history; no media, and
        none of the files that were made or handed off. One is made each day on which something was done.
      </Text>
      {elsewhere && (
        <HStack mb="2" gap="3" wrap="wrap">
          <StateWord word={elsewhere.isHere ? 'here' : 'away'} />
          <Text>Second place</Text>
          <Text fontFamily="mono" overflowWrap="anywhere">
            {elsewhere.folder}
          </Text>
        </HStack>
      )}
      {listed.length > 0 && (
        <Box as="ul" listStyleType="none" mb="2" aria-label="Copies of the ledger">
          {listed.map(({ name, madeAt, bytes: size, isHere, isElsewhere }) => (
            <HStack as="li" key={name} py="1" gap="4" wrap="wrap">
              <Text fontVariantNumeric="tabular-nums">{when(madeAt)}</Text>
              <Text color="quiet">{bytes(size)}</Text>
              <Text color="quiet">{place(isHere, isElsewhere)}</Text>
              {isHere && (
                <Link href={`/api/ledger/copies/${name}`} download aria-label={`Take the copy of ${when(madeAt)}`}>
                  Take it
                </Link>
              )}
            </HStack>
          ))}
        </Box>
      )}
      {copies.length > mostListed && (
        <Button size="xs" variant="ghost" mb="2" onClick={() => setLong(!isLong)}>
          {isLong ? 'Fewer' : `All ${count(copies.length, 'copy', 'copies')}`}
        </Button>
      )}
      <Text fontWeight="semibold">To begin with a copy</Text>
      <Text>
        On this machine, or on a new one when this one is lost. Stop Ennick first. What is in the ledger there is copied
        before it makes room, and no job goes on by itself:
      </Text>
      <chakra.pre fontFamily="mono" bg="bg.subtle" p="3" my="2" overflowX="auto">
        {`./ennick start --ledger ${folder}/${copies[0]?.name ?? 'FILE'}`}
      </chakra.pre>
      <Text color="quiet">Only one Ennick should work with one ledger: two would not know of each other’s work.</Text>
    </>
  )
}

function answer({ copies, elsewhere }: LedgerCopies): string {
  const [newest] = copies
  if (!newest) return 'The ledger was not copied yet: it is on the disk of this machine alone.'
  const last = `Last copied ${when(newest.madeAt)}`
  if (!elsewhere) return `${last}, to the disk that it is on. Choose a second place on another disk.`
  const there = copies.find(({ isElsewhere }) => isElsewhere)
  if (!elsewhere.isHere) return `${last}. The second place is away: the copy goes there when it is back.`
  if (!there) return `${last}. None is in the second place yet.`
  if (there.name !== newest.name) return `${last}; to the second place ${when(there.madeAt)}.`
  return elsewhere.isOnOneDisk
    ? `${last}, to both places; but they are on one disk: choose a second place on another.`
    : `${last}, to both places.`
}

const place = (isHere: boolean, isElsewhere: boolean): string =>
  isHere && isElsewhere ? 'in both places' : isHere ? 'in the data folder' : 'in the second place'

function ChooseSecond({ ledger, onClose }: { ledger: LedgerCopies | undefined; onClose: () => void }): ReactElement {
  const [folder, setFolder] = useState<string | null>(null)
  const keep = useChange('keepLedgerElsewhere', onClose)
  return (
    <Dialog
      title="Where should the ledger be copied to as well?"
      isOpen
      onClose={onClose}
      footer={
        <>
          {ledger?.elsewhere && (
            <Button variant="ghost" loading={keep.isPending} onClick={() => keep.mutate({ body: { folder: null } })}>
              No second place
            </Button>
          )}
          <Button
            disabled={folder === null}
            loading={keep.isPending}
            onClick={() => folder !== null && keep.mutate({ body: { folder } })}
          >
            Copy it there
          </Button>
        </>
      }
    >
      <Stack gap="3">
        <Text>
          Choose a folder on another disk. A folder of the ledger’s own is made in it, and nothing else there is
          touched. While the disk is away nothing is written; the newest copy goes there when it is back.
        </Text>
        <FolderPicker onChoose={setFolder} />
        {keep.error && <Problem message={keep.error.message} />}
      </Stack>
    </Dialog>
  )
}
