import { Button, chakra, Stack, Text } from '@chakra-ui/react'
import type { FindingRow } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { FilePlace } from '../../parts/file-place.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'

/** One choice of an original, with those for other findings to which it carries over by the same relation. */
export interface ChoiceForAll {
  readonly rule: string
  readonly choices: readonly { readonly finding: FindingRow; readonly clipId: string; readonly path: string }[]
}

/** What one choice says for other findings: each is shown before any is taken, and may be left out. */
export function ChooseDialog({
  cutId,
  choice: { rule, choices },
  onClose,
}: {
  cutId: string
  choice: ChoiceForAll
  onClose: () => void
}): ReactElement {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const choose = useChange('chooseClips', onClose)
  const taken = choices.filter(({ finding }) => !left.has(finding.key))
  const toggle = (key: string): void => {
    const next = new Set(left)
    if (!next.delete(key)) next.add(key)
    setLeft(next)
  }
  return (
    <Dialog
      title={`Choose for ${count(choices.length, 'finding')}: a preview, nothing is changed yet`}
      isOpen
      onClose={onClose}
      size="xl"
      footer={
        <Button
          disabled={taken.length === 0}
          loading={choose.isPending}
          onClick={() =>
            choose.mutate({
              params: { cutId },
              body: { choices: taken.map(({ finding, clipId }) => ({ positions: finding.events, clipId })) },
            })
          }
        >
          Use {taken.length === 1 ? 'this one' : 'these'} for {count(taken.length, 'finding')}
        </Button>
      }
    >
      <Text mb="3" overflowWrap="anywhere">
        By one rule for all: <b>{rule}</b>. All of it is one mend, and can be taken back.
      </Text>
      {choose.error && <Problem message={choose.error.message} />}
      <Stack gap="0" as="ul" listStyleType="none">
        {choices.map(({ finding, path }) => (
          <li key={finding.key}>
            <chakra.label display="flex" gap="3" py="1" borderTopWidth="1px" borderColor="rule" alignItems="baseline">
              <input type="checkbox" checked={!left.has(finding.key)} onChange={() => toggle(finding.key)} />
              <chakra.span width="9rem" flexShrink="0">
                event {finding.eventNumbers.join(', ')}
              </chakra.span>
              <chakra.span minWidth="0">
                <FilePlace path={path} />
                {finding.clipName && (
                  <chakra.span color="quiet" fontSize="0.9rem">
                    in place of {finding.clipName}
                  </chakra.span>
                )}
              </chakra.span>
            </chakra.label>
          </li>
        ))}
      </Stack>
    </Dialog>
  )
}
