import { Text } from '@chakra-ui/react'
import type { PassedOverKind } from '@ennick/contract'
import type { ReactElement } from 'react'
import { count } from '../../parts/words.ts'

/** What a scan or a copy does not go through, with the first of it by name; nothing where there is none. */
export function PassedOver({ kinds }: { kinds: readonly PassedOverKind[] }): ReactElement | null {
  if (kinds.length === 0) return null
  return (
    <Text color="quiet" fontSize="0.9rem">
      Passed over: {kinds.map(inWords).join('; ')}.
    </Text>
  )
}

function inWords({ what, total, first }: PassedOverKind): string {
  const named = `(${first.join(', ')}${total > first.length ? ` and ${total - first.length} more` : ''})`
  switch (what) {
    case 'link':
      return `${count(total, 'link')}, as links are not followed ${named}`
    case 'hidden or of the system':
      return `${count(total, 'hidden or system item')} ${named}`
    case 'data folder of an Ennick':
      return `${count(total, 'data folder')} of Ennick itself ${named}`
    case 'neither file nor folder':
      return `${count(total, 'item')} that ${total === 1 ? 'is' : 'are'} neither file nor folder ${named}`
    case 'manifest history that does not hold':
      return `${histories(total)} that ${total === 1 ? 'does' : 'do'} not hold ${named}`
    case 'manifest history that went on otherwise there':
      return `${histories(total)}, as the one there went on otherwise ${named}`
  }
}

const histories = (total: number): string => count(total, 'manifest history', 'manifest histories')
