import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Text, Textarea } from '@chakra-ui/react'
import type { Manifest, Volume, VolumeKindName } from '@ennick/contract'
import { type ReactElement, useEffect, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { DetailLines } from '../../parts/detail-lines.tsx'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Problem } from '../../parts/notices.tsx'
import { RoleChoice } from '../../parts/role-choice.tsx'
import { Section, Sheet } from '../../parts/sheet.tsx'
import { count, when } from '../../parts/words.ts'
import { BoxFields } from './box-fields.tsx'
import { PassedOver } from './passed-over.tsx'
import { RemoveVolume } from './remove-volume.tsx'
import { volumeKinds } from './volume-kinds.ts'

/** Everything about one volume: its label and notes, where it lies, its manifests, what on it is no media. */
export function VolumeSheet({ volume, onClose }: { volume: Volume | null; onClose: () => void }): ReactElement {
  return (
    <Sheet title={volume?.label ?? 'Volume'} isOpen={volume !== null} onClose={onClose}>
      {volume && (
        <>
          <Description key={`${volume.id}-${volume.label}-${JSON.stringify(volume.box)}`} volume={volume} />
          <Roles volume={volume} />
          <Manifests volume={volume} />
          <Place volume={volume} />
          <Others volume={volume} />
          <RemoveVolume key={volume.id} volume={volume} onDone={onClose} />
        </>
      )}
    </Sheet>
  )
}

function Description({ volume }: { volume: Volume }): ReactElement {
  const [label, setLabel] = useState(volume.label)
  const [kind, setKind] = useState(volume.kind as VolumeKindName)
  const [notes, setNotes] = useState(volume.notes)
  const [isWatched, setWatched] = useState(volume.isWatched)
  const [box, setBox] = useState(volume.box)
  const change = useChange('changeVolume')
  const isChanged =
    label !== volume.label ||
    kind !== volume.kind ||
    notes !== volume.notes ||
    isWatched !== volume.isWatched ||
    (['day', 'camera', 'reel', 'unit'] as const).some((field) => (box[field] ?? '') !== (volume.box[field] ?? ''))
  return (
    <Section title="Label and notes">
      <Stack gap="3">
        <HStack gap="4">
          <Field.Root required>
            <Field.Label>Label on the box</Field.Label>
            <Input size="sm" value={label} onChange={(event) => setLabel(event.target.value)} />
          </Field.Root>
          <Field.Root>
            <Field.Label>Kind</Field.Label>
            <NativeSelect.Root size="sm">
              <NativeSelect.Field value={kind} onChange={(event) => setKind(event.target.value as VolumeKindName)}>
                {Object.entries(volumeKinds).map(([value, name]) => (
                  <option key={value} value={value}>
                    {name}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
        </HStack>
        <BoxFields box={box} onChange={(change) => setBox({ ...box, ...change })} />
        <Text color="quiet" fontSize="0.9rem">
          A change goes to its clips too, where they still say what the label said, or nothing.
        </Text>
        <Field.Root>
          <Field.Label>Notes</Field.Label>
          <Textarea
            size="sm"
            rows={2}
            value={notes}
            onChange={(event) => setNotes(event.target.value)}
            placeholder="On which shelf, whose it is, what to know"
          />
        </Field.Root>
        <HStack as="label" gap="2" cursor="pointer">
          <input type="checkbox" checked={isWatched} onChange={(event) => setWatched(event.target.checked)} />
          <Text as="span">Watch it: scan by itself as files arrive, each when it has stopped growing</Text>
        </HStack>
        {change.error && <Problem message={change.error.message} />}
        <Box>
          <Button
            size="sm"
            variant="outline"
            disabled={!isChanged || label.trim() === ''}
            loading={change.isPending}
            onClick={() =>
              change.mutate({ params: { volumeId: volume.id }, body: { label, kind, notes, isWatched, box } })
            }
          >
            Save
          </Button>
        </Box>
      </Stack>
    </Section>
  )
}

/** What its files are for: proxies that others made are told here, for the whole volume or a folder of it. */
function Roles({ volume }: { volume: Volume }): ReactElement {
  const [folder, setFolder] = useState('')
  const declare = useChange('declareRole', () => setFolder(''))
  const ofAll = volume.roles.find(({ path }) => path === '')
  return (
    <Section title="What its files are">
      <Stack gap="2">
        <Text color="quiet">
          Only originals are ever taken for originals. Files that are proxies made elsewhere wait for their originals,
          and are offered in Pairs.
        </Text>
        <HStack gap="3">
          <Text flex="1">All of {volume.label}</Text>
          <RoleChoice volumeId={volume.id} path="" role={ofAll?.role ?? null} label={`What ${volume.label} holds`} />
        </HStack>
        {volume.roles
          .filter(({ path }) => path !== '')
          .map(({ path, role }) => (
            <HStack key={path} gap="3">
              <Text fontFamily="mono" fontSize="0.85rem" flex="1" overflowWrap="anywhere">
                {path}
              </Text>
              <RoleChoice volumeId={volume.id} path={path} role={role} label={`What ${path} holds`} />
            </HStack>
          ))}
        <HStack as="form" gap="3" onSubmit={(event) => event.preventDefault()}>
          <Input
            size="sm"
            flex="1"
            aria-label="A folder of proxies"
            placeholder="A folder of it that holds proxies, such as PROXY"
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
          />
          <Button
            size="sm"
            variant="outline"
            type="submit"
            disabled={folder.trim() === ''}
            loading={declare.isPending}
            onClick={() =>
              declare.mutate({ params: { volumeId: volume.id }, body: { path: folder.trim(), role: 'proxy' } })
            }
          >
            It holds proxies
          </Button>
        </HStack>
        {declare.error && <Problem message={declare.error.message} />}
      </Stack>
    </Section>
  )
}

function Manifests({ volume }: { volume: Volume }): ReactElement {
  const find = useChange('findManifests')
  return (
    <Section
      title="Manifests of checksums"
      action={
        <Button
          size="2xs"
          variant="ghost"
          disabled={!volume.isHere}
          loading={find.isPending}
          onClick={() => find.mutate({ params: { volumeId: volume.id } })}
        >
          Look for manifests on it
        </Button>
      }
    >
      {find.error && <Problem message={find.error.message} />}
      {volume.manifests.length === 0 && (
        <Text color="quiet">None is known. An offload writes one beside its copy.</Text>
      )}
      {volume.manifests.map((manifest) => (
        <ManifestLine key={manifest.id} manifest={manifest} isHere={volume.isHere} />
      ))}
    </Section>
  )
}

function ManifestLine({ manifest, isHere }: { manifest: Manifest; isHere: boolean }): ReactElement {
  const verify = useChange('verifyManifest')
  const job = useRead('readJob', manifest.verifyJobId ? { params: { jobId: manifest.verifyJobId } } : null)
  const details = useRead('readJobDetails', job.data?.summary ? { params: { jobId: job.data.id } } : null)
  const isLive = job.data?.state === 'waiting' || job.data?.state === 'running'
  return (
    <Box py="1.5">
      <HStack>
        <Text flex="1" fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
          {manifest.path}
        </Text>
        <Button
          size="xs"
          variant="outline"
          disabled={!isHere || isLive}
          loading={verify.isPending}
          onClick={() => verify.mutate({ params: { manifestId: manifest.id } })}
        >
          Verify {count(manifest.files, 'file')}
        </Button>
      </HStack>
      <Text color="quiet" fontSize="0.85rem">
        written {when(manifest.createdAt)}
      </Text>
      {verify.error && <Problem message={verify.error.message} />}
      {job.data && <JobLine job={job.data} />}
      {details.data && <DetailLines details={details.data} />}
    </Box>
  )
}

function Place({ volume }: { volume: Volume }): ReactElement {
  const [isMoving, setMoving] = useState(false)
  const [rootPath, setRootPath] = useState<string | null>(null)
  const move = useChange('moveVolume', () => setMoving(false))
  const mark = useChange('markVolume')
  const formatted = useChange('noteFormatted')
  useEffect(() => setMoving(false), [])
  return (
    <Section
      title="Where it lies"
      action={
        <Button size="2xs" variant="ghost" onClick={() => setMoving(!isMoving)}>
          {isMoving ? 'Cancel' : 'Change its folder…'}
        </Button>
      }
    >
      <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" mb="2">
        {volume.rootPath}
      </Text>
      {isMoving && (
        <Stack gap="3" mb="3">
          <FolderPicker onChoose={setRootPath} />
          <Box>
            <Button
              size="sm"
              variant="outline"
              disabled={rootPath === null}
              loading={move.isPending}
              onClick={() => rootPath && move.mutate({ params: { volumeId: volume.id }, body: { rootPath } })}
            >
              {volume.label} lies here
            </Button>
          </Box>
        </Stack>
      )}
      {move.error && <Problem message={move.error.message} />}
      {volume.hasMarker ? (
        <Text color="quiet">It carries a marker: it is known beside this place too, whatever it is mounted as.</Text>
      ) : (
        <HStack align="start" gap="3">
          <Text color="quiet" flex="1">
            With a small marker file at its root it would be known wherever it is mounted. That is the only file Ennick
            ever writes to a volume of originals, and only when you say so.
          </Text>
          <Button
            size="xs"
            variant="outline"
            disabled={!volume.isHere}
            loading={mark.isPending}
            onClick={() => mark.mutate({ params: { volumeId: volume.id } })}
          >
            Write a marker to {volume.label}
          </Button>
        </HStack>
      )}
      {mark.error && <Problem message={mark.error.message} />}
      {volume.isRemovable && (
        <HStack align="start" gap="3" mt="3">
          <Text color="quiet" flex="1">
            Where nothing of what is known of it is there, another card is in, or it was formatted. Another card is
            added as a volume of its own.
          </Text>
          <Button
            size="xs"
            variant="outline"
            loading={formatted.isPending}
            onClick={() => formatted.mutate({ params: { volumeId: volume.id } })}
          >
            {volume.label} was formatted
          </Button>
        </HStack>
      )}
      {formatted.error && <Problem message={formatted.error.message} />}
      {formatted.data && (
        <Text role="status" mt="2">
          What was on it is told to be gone. Scan it, for what is on it now.
        </Text>
      )}
    </Section>
  )
}

function Others({ volume }: { volume: Volume }): ReactElement | null {
  const [isOpen, setOpen] = useState(false)
  const others = useRead('listOtherFiles', isOpen ? { params: { volumeId: volume.id } } : null)
  return (
    <Section
      title={`Files that are no media (${volume.otherFiles})`}
      action={
        <Button
          size="2xs"
          variant="ghost"
          disabled={!volume.isHere}
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        >
          {isOpen ? 'Close' : 'List them'}
        </Button>
      }
    >
      {others.error && <Problem message={others.error.message} />}
      {isOpen && others.data && (
        <>
          {others.data.paths.map((path) => (
            <Text key={path} fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere">
              {path}
            </Text>
          ))}
          {others.data.total > others.data.paths.length && (
            <Text>and {others.data.total - others.data.paths.length} more</Text>
          )}
          <PassedOver kinds={others.data.passedOver} />
          <Text color="quiet" fontSize="0.85rem" mt="2">
            {others.data.rule}
          </Text>
        </>
      )}
    </Section>
  )
}
