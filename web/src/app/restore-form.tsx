import { Box, Button, Field, Input, Stack, Text } from '@chakra-ui/react'
import type { RestorePlanInfo } from '@ennick/contract'
import { formatRate } from '@ennick/core'
import { type ReactElement, useCallback, useState } from 'react'
import { useChange } from '../data/queries.ts'
import { FolderPicker } from '../parts/folder-picker.tsx'
import { Problem } from '../parts/notices.tsx'
import { Tick } from '../parts/tick.tsx'
import { count, when } from '../parts/words.ts'

/** Puts a production together again from its archive: what that holds is shown before anything is done. */
export function RestoreForm({ onDone }: { onDone: (made: { productionId: string }) => void }): ReactElement {
  const [folder, setFolder] = useState<string | null>(null)
  const [name, setName] = useState<string | null>(null)
  const [verifies, setVerifies] = useState(true)
  const plan = useChange('planRestore')
  const start = useChange('restore', onDone)
  const { mutate, reset } = plan
  const choose = useCallback(
    (path: string | null) => {
      setFolder(path)
      setName(null)
      if (path === null) reset()
      else mutate({ body: { folder: path } })
    },
    [mutate, reset],
  )
  const found = folder !== null && !plan.error && !plan.isPending ? plan.data : undefined
  const written = name ?? found?.name ?? ''
  return (
    <Stack gap="4">
      <Box>
        <Text mb="1" fontWeight="medium">
          The folder of the archive
        </Text>
        <FolderPicker onChoose={choose} />
      </Box>
      {folder !== null && plan.error && <Text color="quiet">{plan.error.message}</Text>}
      {found && (
        <>
          <WhatIsInIt plan={found} />
          <Field.Root required>
            <Field.Label>Name of the production</Field.Label>
            <Input value={written} onChange={(event) => setName(event.target.value)} bg="page" />
          </Field.Root>
          <Tick
            label="Read every file back first, and compare it with what the archive’s manifests say"
            isOn={verifies}
            onChange={setVerifies}
          />
        </>
      )}
      {start.error && <Problem message={start.error.message} />}
      <Button
        alignSelf="start"
        disabled={!found || found.blocked !== null || written.trim() === ''}
        loading={start.isPending}
        onClick={() => folder !== null && start.mutate({ body: { folder, name: written, verifies } })}
      >
        Put it together again
      </Button>
    </Stack>
  )
}

/** So many originals that an archive lacks are named before it comes back; all are, after. */
const mostNamed = 12

function WhatIsInIt({ plan }: { plan: RestorePlanInfo }): ReactElement {
  const { name, rate, width, height, madeAt, volumes, clips, lists, lacks, lacksCount, blocked } = plan
  const missing = volumes.filter(({ isThere }) => !isThere)
  return (
    <Box>
      <Text>
        “{name}”, {formatRate(rate)} fps, {width} × {height}, as it was archived {when(madeAt)}: {count(clips, 'clip')}{' '}
        of {count(volumes.length, 'volume')}, {count(lists, 'list')}.
      </Text>
      <Text color="quiet">
        Nothing is copied: the originals are used where they lie now. What was said of each clip comes back, synced
        sound among it, and the lists are read, with what was chosen and decided for them. Proxies are made anew from
        Make.
      </Text>
      {missing.length > 0 && (
        <Problem
          message={`Not in this folder: ${missing.map(({ folder }) => folder).join(', ')}. Their clips stay away.`}
        />
      )}
      {lacksCount > 0 && (
        <Problem
          message={`It lacks ${count(lacksCount, 'original')}, as it said when it was made: ${lacks
            .slice(0, mostNamed)
            .map(({ name: lacking }) => lacking)
            .join(', ')}${lacksCount > mostNamed ? ` and ${lacksCount - mostNamed} more` : ''}.`}
        />
      )}
      {blocked !== null && <Problem message={blocked} />}
    </Box>
  )
}
