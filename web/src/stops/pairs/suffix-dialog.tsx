import { Button, Field, Text, Textarea } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'

/** By which ends of their names proxies are known in this production. */
export function SuffixDialog({ onClose }: { onClose: () => void }): ReactElement {
  const production = useProduction()
  const [text, setText] = useState(production.proxySuffixes.join('\n'))
  const keep = useChange('setProxySuffixes', onClose)
  const proxySuffixes = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
  return (
    <Dialog
      title="Suffixes of proxies"
      isOpen
      onClose={onClose}
      size="md"
      footer={
        <Button
          loading={keep.isPending}
          onClick={() => keep.mutate({ params: { productionId: production.id }, body: { proxySuffixes } })}
        >
          Keep these suffixes
        </Button>
      }
    >
      <Text mb="3" color="quiet">
        A proxy may carry one of these after the name of its original: “A001C001_proxy” belongs to “A001C001”. Suffixes
        of recipes count besides. Case does not matter.
      </Text>
      <Field.Root>
        <Field.Label>One on each line</Field.Label>
        <Textarea rows={8} fontFamily="mono" value={text} onChange={(event) => setText(event.target.value)} />
      </Field.Root>
      {keep.error && <Problem message={keep.error.message} />}
    </Dialog>
  )
}
