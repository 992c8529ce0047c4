import { Box, Button, Flex, Text } from '@chakra-ui/react'
import type { Cut, FindingRow } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'

/** What uses would give up, before they do; what comes of it is the next version of the cut. */
export function TrimDialog({
  cut,
  findings,
  onClose,
}: {
  cut: Cut
  findings: readonly FindingRow[]
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const trim = useChange('trim', ({ cutId }) => {
    onClose()
    navigate(`/p/${production.id}/mend/${cutId}`)
  })
  return (
    <Dialog
      title={`Trim ${count(findings.length, 'use')}: a preview, nothing is changed yet`}
      isOpen
      onClose={onClose}
      footer={
        <Button
          loading={trim.isPending}
          onClick={() =>
            trim.mutate({ params: { cutId: cut.id }, body: { findingKeys: findings.map(({ key }) => key) } })
          }
        >
          Trim {count(findings.length, 'use')} as the next version
        </Button>
      }
    >
      <Text mb="3">
        Each use gives up what its original does not have. All others stay where they are: black or silence of as many
        frames is left behind. The list becomes the next version of “{cut.name}”; this version stays, and the trim can
        be taken back.
      </Text>
      {trim.error && <Problem message={trim.error.message} />}
      <Box maxHeight="22rem" overflowY="auto">
        {findings.map((finding) => (
          <Flex key={finding.key} gap="4" py="1" borderTopWidth="1px" borderColor="rule" align="baseline">
            <Text width="7rem" flexShrink="0">
              event {finding.eventNumbers.join(', ')}
            </Text>
            <Text flex="1" minWidth="0" overflowWrap="anywhere">
              {finding.clipName}
            </Text>
            <Text>gives up {finding.trim}</Text>
          </Flex>
        ))}
      </Box>
    </Dialog>
  )
}
