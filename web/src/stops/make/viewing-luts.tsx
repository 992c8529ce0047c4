import { Button, HStack, NativeSelect, Stack, Table, Text } from '@chakra-ui/react'
import type { Lut } from '@ennick/contract'
import { formatNumber, nameSome } from '@ennick/core'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { count } from '../../parts/words.ts'
import { AddLut } from './add-lut.tsx'

/** Which LUT cameras and clips pass through in place of the recipe's own, and the library to choose from. */
export function ViewingLuts({
  clipIds,
  isOpen,
  onClose,
}: {
  clipIds: readonly string[]
  isOpen: boolean
  onClose: () => void
}): ReactElement {
  const params = { productionId: useProduction().id }
  const library = useRead('listLuts', isOpen ? {} : null)
  const given = useRead('listLutAssignments', isOpen ? { params } : null)
  const assign = useChange('assignLuts')
  const retire = useChange('retireLut')
  const luts = library.data ?? []
  const nameOf = (lutId: string | null): string =>
    lutId === null ? 'none' : (luts.find((lut) => lut.id === lutId)?.name ?? lutId)
  const give = (target: { cameras?: string[]; clipIds?: string[] }, value: string): void =>
    assign.mutate({
      params,
      body: { ...target, choice: value === 'own' ? 'remove' : { lutId: value === 'none' ? null : value } },
    })
  const cameras = [
    ...(given.data?.cameras ?? []),
    ...(given.data?.open ?? []).map((camera) => ({ ...camera, lutId: undefined })),
  ].sort((a, b) => a.camera.localeCompare(b.camera))
  const own = given.data?.clips ?? []
  const error = assign.error ?? retire.error ?? library.error ?? given.error
  return (
    <Dialog
      title="Viewing LUTs"
      size="xl"
      isOpen={isOpen}
      onClose={onClose}
      footer={<Button onClick={onClose}>Done</Button>}
    >
      <Stack gap="5">
        <Text color="quiet" fontSize="0.9rem">
          A clip’s own LUT comes before its camera’s, and that before the recipe’s. Pictures made for a display pass
          none; a recipe without a LUT stays without.
        </Text>
        {error && <Problem message={error.message} />}
        {(library.isPending || given.isPending) && <Loading what="the library" />}
        {given.data && library.data && (
          <Section title="By camera">
            {cameras.length === 0 && (
              <Text color="quiet">No clip says which camera it is from. Fill in the column Camera in Clips.</Text>
            )}
            {cameras.map(({ camera, clips, lutId }) => (
              <HStack key={camera} gap="4" py="1">
                <Text width="14rem">
                  Camera {camera}, {count(clips, 'clip')}
                </Text>
                <LutSelect
                  label={`LUT of camera ${camera}`}
                  luts={luts}
                  value={lutId === undefined ? 'own' : (lutId ?? 'none')}
                  onChange={(value) => give({ cameras: [camera] }, value)}
                />
              </HStack>
            ))}
          </Section>
        )}
        {given.data && library.data && (
          <Section title="By clip">
            {clipIds.length > 0 && (
              <HStack gap="4" py="1">
                <Text width="14rem">
                  {clipIds.length === 1
                    ? 'Give the chosen clip'
                    : `Give the ${formatNumber(clipIds.length)} chosen clips`}
                </Text>
                <LutSelect
                  label="LUT of the chosen clips"
                  luts={luts}
                  value=""
                  onChange={(value) => give({ clipIds: [...clipIds] }, value)}
                />
              </HStack>
            )}
            <Text color="quiet" fontSize="0.9rem">
              {own.length === 0
                ? 'No clip has a LUT of its own.'
                : `With one of their own: ${nameSome(
                    own.map((clip) => `${clip.name} (${nameOf(clip.lutId)})`),
                    12,
                  )}.`}
            </Text>
          </Section>
        )}
        {library.data && (
          <Section title="Library">
            <Table.Root size="sm" mb="3">
              <Table.Body>
                {luts.map((lut) => (
                  <Table.Row key={lut.id} bg="transparent">
                    <Table.Cell color="quiet">{lut.group}</Table.Cell>
                    <Table.Cell>{lut.name}</Table.Cell>
                    <Table.Cell>
                      {lut.kind}, {lut.size} {lut.kind === '3D' ? 'points an edge' : 'points'}
                    </Table.Cell>
                    <Table.Cell textAlign="end">
                      {!lut.isBuiltIn && (
                        <Button size="xs" variant="ghost" onClick={() => retire.mutate({ params: { lutId: lut.id } })}>
                          Retire
                        </Button>
                      )}
                    </Table.Cell>
                  </Table.Row>
                ))}
              </Table.Body>
            </Table.Root>
            <AddLut
              groups={[...new Set(luts.filter((lut) => !lut.isBuiltIn).map((lut) => lut.group))]}
              clipId={clipIds[0] ?? null}
            />
          </Section>
        )}
      </Stack>
    </Dialog>
  )
}

function LutSelect({
  label,
  luts,
  value,
  onChange,
}: {
  label: string
  luts: readonly Lut[]
  value: string
  onChange: (value: string) => void
}): ReactElement {
  const groups = [...new Set(luts.map((lut) => lut.group))]
  return (
    <NativeSelect.Root size="sm" width="22rem">
      <NativeSelect.Field
        aria-label={label}
        value={value}
        onChange={(event) => event.target.value && onChange(event.target.value)}
      >
        {value === '' && <option value="">a LUT…</option>}
        <option value="own">the recipe’s own</option>
        <option value="none">none</option>
        {groups.map((group) => (
          <optgroup key={group} label={group}>
            {luts
              .filter((lut) => lut.group === group)
              .map((lut) => (
                <option key={lut.id} value={lut.id}>
                  {lut.name}
                </option>
              ))}
          </optgroup>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}
