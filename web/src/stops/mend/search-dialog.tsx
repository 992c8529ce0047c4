import { Box, Button, chakra, HStack, Progress, Stack, Text } from '@chakra-ui/react'
import type { RepointPlanRow, SearchResult, SearchScope } from '@ennick/contract'
import { type CarriedChoice, carryOver, type OpenChoice } from '@ennick/core'
import { type ReactElement, useCallback, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { count, timeLeft } from '../../parts/words.ts'
import { RepointRow } from './repoint-row.tsx'

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

const scopeWords: Record<SearchScope, string> = {
  folder: 'the folder gave',
  below: 'all below it',
  known: 'everything known',
}

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
  const [picked, setPicked] = useState<ReadonlyMap<string, string | null>>(new Map())
  const repoint = useChange('repoint', onClose)
  const choose = useCallback((path: string | null) => setFolder(path), [])
  const rows = result.data?.rows ?? []
  const [reasons, setReasons] = useState<ReadonlyMap<string, string>>(new Map())
  const choices = rows.flatMap((row) => {
    const candidateId = picked.has(row.wantedId) ? picked.get(row.wantedId) : row.candidateId
    if (!candidateId) return []
    const isRefused = row.rated.some((each) => each.candidateId === candidateId && each.refusal !== null)
    const reason = reasons.get(row.wantedId)?.trim() ?? ''
    return isRefused ? [{ wantedId: row.wantedId, candidateId, reason }] : [{ wantedId: row.wantedId, candidateId }]
  })
  const lacksReason = choices.some((choice) => 'reason' in choice && choice.reason === '')
  const [latest, setLatest] = useState<string | null>(null)
  const pick = (wantedId: string, candidateId: string | null): void => {
    setPicked(new Map(picked).set(wantedId, candidateId))
    setLatest(wantedId)
  }
  const carried = latest === null ? null : carriedBy(latest, rows, picked, choices)

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
                setPicked(new Map())
                setLatest(null)
              }}
            >
              Look elsewhere
            </Button>
            <Button
              disabled={choices.length === 0 || lacksReason}
              title={lacksReason ? 'A file that is refused is taken only with a reason.' : undefined}
              loading={repoint.isPending}
              onClick={() => repoint.mutate({ params: { cutId }, body: { searchJobId: jobId, choices } })}
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
                  ? `${job.data.progress.done} of ${job.data.progress.total} files looked at · ${timeLeft(job.data.progress.secondsLeft)}`
                  : 'Looking through the folders'}
              </Text>
            </>
          )}
        </Stack>
      )}
      {isDone && result.isPending && <Loading what="the preview" />}
      {result.error && <Problem message={result.error.message} />}
      {repoint.error && <Problem message={repoint.error.message} />}
      {result.data && (
        <Box>
          <Text mb="3">{toldOf(result.data)}</Text>
          {result.data.scopes.length > 1 && (
            <Text mb="3" color="quiet">
              In turn:{' '}
              {result.data.scopes
                .map(({ scope, looked, settled }) => `${scopeWords[scope]} ${settled} of ${count(looked, 'file')}`)
                .join(' · ')}
            </Text>
          )}
          {result.data.unreadable.length > 0 && (
            <Problem
              message={`${count(result.data.unreadable.length, 'folder')} could not be read, so what is in ${result.data.unreadable.length === 1 ? 'it' : 'them'} was not searched: ${result.data.unreadable.slice(0, 5).join(', ')}${result.data.unreadable.length > 5 ? ' …' : ''}.`}
            />
          )}
          {byRule(rows).map(([rule, group]) => (
            <Box key={rule ?? 'none'} mb="4">
              {rule !== null && (
                <HStack mb="1" gap="3">
                  <Text fontWeight="semibold" fontSize="0.92rem" overflowWrap="anywhere">
                    {group.length} by one rule: {rule}
                  </Text>
                  <Button
                    size="xs"
                    variant="ghost"
                    onClick={() =>
                      setPicked(
                        new Map([
                          ...picked,
                          ...group.map(
                            (row) =>
                              [
                                row.wantedId,
                                group.every((other) => picked.get(other.wantedId) === null) ? row.candidateId : null,
                              ] as const,
                          ),
                        ]),
                      )
                    }
                  >
                    {group.every((row) => picked.get(row.wantedId) === null) ? 'Take all' : 'Leave all'}
                  </Button>
                </HStack>
              )}
              {group.map((row) => (
                <RepointRow
                  key={row.wantedId}
                  row={row}
                  carried={row.wantedId === latest ? carried : null}
                  onCarry={(said) =>
                    setPicked(new Map([...picked, ...said.choices.map(({ id, option }) => [id, option.id] as const)]))
                  }
                  jobId={result.data?.jobId ?? ''}
                  picked={picked.has(row.wantedId) ? (picked.get(row.wantedId) ?? null) : row.candidateId}
                  taken={
                    new Set(
                      choices.filter((choice) => choice.wantedId !== row.wantedId).map((choice) => choice.candidateId),
                    )
                  }
                  onPick={(candidateId) => pick(row.wantedId, candidateId)}
                  reason={reasons.get(row.wantedId) ?? ''}
                  onReason={(reason) => setReasons(new Map(reasons).set(row.wantedId, reason))}
                />
              ))}
            </Box>
          ))}
        </Box>
      )}
    </Dialog>
  )
}

/** What a person's choice for one row says for others: those that nobody has chosen for, and that get another file. */
function carriedBy(
  wantedId: string,
  rows: readonly RepointPlanRow[],
  picked: ReadonlyMap<string, string | null>,
  choices: readonly { readonly wantedId: string; readonly candidateId: string }[],
): CarriedChoice | null {
  const chosen = rows.find((row) => row.wantedId === wantedId)
  const candidateId = picked.get(wantedId)
  if (!chosen || !candidateId) return null
  const takers = new Map(choices.map((choice) => [choice.candidateId, choice.wantedId]))
  const open = ({ wantedId: id, known, rated }: RepointPlanRow): OpenChoice => ({
    ...{ id, known },
    options: rated
      .filter((each) => each.refusal === null && (takers.get(each.candidateId) ?? id) === id)
      .map((each) => ({ id: each.candidateId, path: each.path })),
  })
  const others = rows.filter((row) => !picked.has(row.wantedId))
  const carried = carryOver(open(chosen), candidateId, others.map(open), false)
  const now = new Map(others.map((row) => [row.wantedId, row.candidateId]))
  const news = (carried?.choices ?? []).filter(({ id, option }) => now.get(id) !== option.id)
  return carried && news.length ? { ...carried, choices: news } : null
}

/** How much was looked at, and what became of everything that was asked for. */
function toldOf({ looked, counts }: SearchResult): string {
  const parts = [
    ...[`${counts.fits} fit`, `${counts.likely} likely`, `${counts.ambiguous} ambiguous`],
    ...[`${counts.refused} refused`, `${counts.notFound} not found`],
  ]
  return `${count(looked, 'file')} looked at. Of ${count(counts.asked, 'source')} asked for: ${parts.join(', ')}.`
}

/** Rows that fit by the same rule stand together; those without one come last. */
function byRule(rows: readonly RepointPlanRow[]): [string | null, RepointPlanRow[]][] {
  const groups = new Map<string | null, RepointPlanRow[]>()
  for (const row of [...rows].sort((a, b) => Number(a.rule === null) - Number(b.rule === null)))
    groups.set(row.rule, [...(groups.get(row.rule) ?? []), row])
  return [...groups]
}
