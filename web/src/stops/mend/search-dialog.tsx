import { Button, chakra, HStack, Progress, Stack, Text } from '@chakra-ui/react'
import type { RepointPlanRow, SearchScope } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useCallback, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { count, timeLeft } from '../../parts/words.ts'
import { useSearchChoices } from './search-choices.ts'
import { SearchPreview } from './search-preview.tsx'

type Places = 'known' | 'folder' | 'below' | 'in turn'

const placeWords: Record<Places, string> = {
  known: 'Everything known: every file of the volumes that are here, as last scanned',
  folder: 'One folder',
  below: 'A folder and all below it',
  'in turn': 'In turn: the folder, all below it, then everything known; what one settles is not looked for in the next',
}

const scopesOf: Record<Places, readonly SearchScope[]> = {
  known: ['known'],
  folder: ['folder'],
  below: ['below'],
  'in turn': ['folder', 'below', 'known'],
}

const noRows: readonly RepointPlanRow[] = []

/** Searches the places that a person chose, shows what would be repointed and why, and does only what was accepted. */
export function SearchDialog({
  cutId,
  findingKeys,
  onClose,
}: {
  cutId: string
  findingKeys: readonly string[]
  onClose: () => void
}): ReactElement {
  const [folder, setFolder] = useState<string | null>(null)
  const [places, setPlaces] = useState<Places>('known')
  const [jobId, setJobId] = useState<string | null>(null)
  const search = useChange('search', (job) => setJobId(job.id))
  const cancel = useChange('cancelJob')
  const job = useRead('readJob', jobId === null ? null : { params: { jobId } })
  const isDone = job.data?.state === 'done'
  const result = useRead('readSearch', jobId !== null && isDone ? { params: { jobId } } : null)
  const repoint = useChange('repoint', onClose)
  const choose = useCallback((path: string | null) => setFolder(path), [])
  const chosen = useSearchChoices(result.data?.rows ?? noRows)
  const { choices } = chosen
  const lacksReason = choices.some(({ reason }) => reason === '')

  return (
    <Dialog
      title={
        jobId === null
          ? `Where to look for ${count(findingKeys.length, 'finding')}`
          : isDone
            ? 'What was found: a preview, nothing is changed yet'
            : 'Searching'
      }
      isOpen
      onClose={onClose}
      size="xl"
      footer={
        jobId === null ? (
          <Button
            disabled={folder === null && places !== 'known'}
            loading={search.isPending}
            onClick={() =>
              search.mutate({
                params: { cutId },
                body: {
                  folder: places === 'known' ? null : folder,
                  scopes: [...scopesOf[places]],
                  findingKeys: [...findingKeys],
                },
              })
            }
          >
            Search
          </Button>
        ) : isDone ? (
          <HStack>
            <Button
              variant="outline"
              onClick={() => {
                setJobId(null)
                chosen.forget()
              }}
            >
              Look elsewhere
            </Button>
            <Button
              disabled={choices.length === 0 || lacksReason}
              title={lacksReason ? 'A file that is refused is taken only with a reason.' : undefined}
              loading={repoint.isPending}
              onClick={() => repoint.mutate({ params: { cutId }, body: { searchJobId: jobId, choices: [...choices] } })}
            >
              Repoint {count(choices.length, 'source')}
            </Button>
          </HStack>
        ) : (
          <Button
            variant="outline"
            onClick={() => cancel.mutate({ params: { jobId } }, { onSettled: () => setJobId(null) })}
          >
            Stop the search
          </Button>
        )
      }
    >
      {jobId === null && (
        <Stack gap="3">
          <chakra.fieldset display="grid" gap="1">
            {(Object.keys(placeWords) as Places[]).map((value) => (
              <chakra.label key={value} display="flex" gap="2">
                <input
                  type="radio"
                  name="places"
                  value={value}
                  checked={places === value}
                  onChange={() => setPlaces(value)}
                />
                {placeWords[value]}
              </chakra.label>
            ))}
          </chakra.fieldset>
          {places !== 'known' && <FolderPicker onChoose={choose} />}
          {search.error && <Problem message={search.error.message} />}
        </Stack>
      )}
      {jobId !== null && !isDone && (
        <Stack gap="3">
          {job.data?.state === 'failed' || job.data?.state === 'cancelled' ? (
            <Problem message={job.data.error ?? 'The search was stopped.'} />
          ) : (
            <>
              <Progress.Root
                size="sm"
                value={
                  job.data?.progress ? (100 * job.data.progress.done) / Math.max(1, job.data.progress.total) : null
                }
                aria-label="Search"
              >
                <Progress.Track bg="rule">
                  <Progress.Range bg="tide.solid" />
                </Progress.Track>
              </Progress.Root>
              <Text color="quiet">
                {job.data?.progress
                  ? `${formatNumber(job.data.progress.done)} of ` +
                    `${count(job.data.progress.total, 'file')} looked at · ` +
                    timeLeft(job.data.progress.secondsLeft)
                  : 'Looking through the folders'}
              </Text>
            </>
          )}
        </Stack>
      )}
      {isDone && result.isPending && <Loading what="the preview" />}
      {result.error && <Problem message={result.error.message} />}
      {repoint.error && <Problem message={repoint.error.message} />}
      {result.data && <SearchPreview result={result.data} chosen={chosen} />}
    </Dialog>
  )
}
