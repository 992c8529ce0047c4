import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react'
import type { TreeNode } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type DragEvent, type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { orderOfEdits, useChange, useRead } from '../../data/queries.ts'
import { Loading, Problem } from '../../parts/notices.tsx'
import { bytes, count } from '../../parts/words.ts'
import type { ClipGroup } from './clip-query.ts'

interface Branch {
  readonly key: string
  readonly label: string
  readonly group: ClipGroup
  readonly clips: number
  readonly bytes: number
  readonly depth: number
}

/** What the drag of clips carries. */
export const dragType = 'application/x-ennick-clips'

/**
 * Production › day › camera › reel, with counts and sizes. A click shows a group's clips; clips are moved into one by
 * dropping them on it, or with its button while some are marked.
 */
export function GroupTree({
  chosen,
  marked,
  onChoose,
}: {
  chosen: ClipGroup | null
  marked: readonly string[]
  onChoose: (group: ClipGroup | null) => void
}): ReactElement {
  const production = useProduction()
  const tree = useRead('listTree', { params: { productionId: production.id } })
  const [over, setOver] = useState<string | null>(null)
  const edit = useChange('editClips', undefined, orderOfEdits)
  const moveTo = async (group: ClipGroup, clipIds: string[]): Promise<void> => {
    for (const [field, value] of Object.entries(group) as [string, string][])
      await edit.mutateAsync({
        params: { productionId: production.id },
        body: { action: { kind: 'set', clipIds, field, value }, apply: true },
      })
  }
  if (tree.isPending) return <Loading what="the groups" />
  if (tree.error) return <Problem message={tree.error.message} />
  const branches = branchesOf(tree.data)
  const chosenKey = chosen ? keyOf(chosen) : ''
  const drop = (event: DragEvent, branch: Branch): void => {
    event.preventDefault()
    setOver(null)
    const ids: unknown = JSON.parse(event.dataTransfer.getData(dragType) || '[]')
    if (Array.isArray(ids) && ids.length) void moveTo(branch.group, ids.map(String))
  }
  return (
    <Box
      as="nav"
      aria-label="Groups"
      width="15rem"
      flexShrink="0"
      borderRightWidth="1px"
      borderColor="rule"
      pr="3"
      overflowY="auto"
      pb="6"
    >
      <TreeButton
        label={production.name}
        isChosen={chosen === null}
        depth={0}
        clips={branches.reduce((sum, branch) => sum + (branch.depth === 1 ? branch.clips : 0), 0)}
        onClick={() => onChoose(null)}
      />
      {branches.map((branch) => (
        <Box
          key={branch.key}
          bg={over === branch.key ? 'tide.muted' : 'transparent'}
          onDragOver={(event) => {
            if (!event.dataTransfer.types.includes(dragType)) return
            event.preventDefault()
            setOver(branch.key)
          }}
          onDragLeave={() => setOver(null)}
          onDrop={(event) => drop(event, branch)}
        >
          <TreeButton
            label={branch.label}
            isChosen={branch.key === chosenKey}
            depth={branch.depth}
            clips={branch.clips}
            title={`${count(branch.clips, 'clip')}, ${bytes(branch.bytes)}`}
            onClick={() => onChoose(branch.key === chosenKey ? null : branch.group)}
          />
          {branch.key === chosenKey && (
            <Flex pl={`${branch.depth * 0.9 + 0.6}rem`} pb="1" gap="2" align="center" wrap="wrap">
              <Text color="quiet" fontSize="0.82rem">
                {bytes(branch.bytes)}
              </Text>
              {marked.length > 0 && (
                <Button
                  size="2xs"
                  variant="outline"
                  loading={edit.isPending}
                  onClick={() => void moveTo(branch.group, [...marked])}
                >
                  Move {count(marked.length, 'clip')} here
                </Button>
              )}
            </Flex>
          )}
        </Box>
      ))}
      {edit.error && <Problem message={edit.error.message} />}
      <Text color="quiet" fontSize="0.82rem" mt="3">
        Drop clips on a group to move them there.
      </Text>
    </Box>
  )
}

function TreeButton({
  label,
  isChosen,
  depth,
  clips,
  title,
  onClick,
}: {
  label: string
  isChosen: boolean
  depth: number
  clips: number
  title?: string
  onClick: () => void
}): ReactElement {
  return (
    <chakra.button
      type="button"
      display="flex"
      width="100%"
      justifyContent="space-between"
      gap="2"
      py="0.5"
      pl={`${depth * 0.9 + 0.2}rem`}
      pr="1"
      textAlign="left"
      cursor="pointer"
      fontWeight={isChosen ? 'semibold' : 'normal'}
      bg={isChosen ? 'tide.subtle' : 'transparent'}
      aria-current={isChosen || undefined}
      title={title}
      onClick={onClick}
    >
      <Text as="span" truncate>
        {label}
      </Text>
      <Text as="span" color="quiet" fontVariantNumeric="tabular-nums">
        {formatNumber(clips)}
      </Text>
    </chakra.button>
  )
}

const keyOf = (group: ClipGroup): string => JSON.stringify([group.day, group.camera ?? null, group.reel ?? null])

function branchesOf(nodes: readonly TreeNode[]): Branch[] {
  const branches: Branch[] = []
  const byKey = new Map<string, number>()
  const add = (depth: number, label: string, group: ClipGroup, node: TreeNode): void => {
    const key = keyOf(group)
    const at = byKey.get(key)
    if (at === undefined) {
      byKey.set(key, branches.length)
      branches.push({ key, label, group, clips: node.clips, bytes: node.bytes, depth })
      return
    }
    const branch = branches[at] as Branch
    branches[at] = { ...branch, clips: branch.clips + node.clips, bytes: branch.bytes + node.bytes }
  }
  for (const node of nodes) {
    const { day, camera, reel } = node
    add(1, day || 'no day', { day }, node)
    add(2, camera ? `camera ${camera}` : 'no camera', { day, camera }, node)
    add(3, reel || 'no reel', { day, camera, reel }, node)
  }
  return branches
}
