import { Button, Text } from '@chakra-ui/react'
import type { Volume } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** A volume that was added by mistake goes again, where nothing rests on it. */
export function RemoveVolume({ volume, onDone }: { volume: Volume; onDone: () => void }): ReactElement {
  const [isOpen, setOpen] = useState(false)
  const preview = useChange('removeVolume')
  const remove = useChange('removeVolume', () => {
    setOpen(false)
    onDone()
  })
  const params = { volumeId: volume.id }
  const { data } = preview
  const error = remove.error ?? preview.error
  return (
    <Section title="Added by mistake?">
      <Button
        size="sm"
        variant="outline"
        onClick={() => {
          setOpen(true)
          preview.mutate({ params, body: { apply: false } })
        }}
      >
        Remove {volume.label} from the production…
      </Button>
      <Dialog
        title={`Remove ${volume.label}?`}
        isOpen={isOpen}
        onClose={() => setOpen(false)}
        footer={
          <Button
            disabled={!data || data.reasons.length > 0}
            loading={remove.isPending}
            onClick={() => remove.mutate({ params, body: { apply: true } })}
          >
            Remove it{data && data.clips > 0 ? ` with its ${count(data.clips, 'clip')}` : ''}
          </Button>
        }
      >
        {preview.isPending && <Loading what="what rests on it" />}
        {data && data.reasons.length === 0 && (
          <>
            <Text>
              No file is touched. Ennick forgets the volume and {count(data.clips, 'clip')}; added and scanned again, it
              comes back as it was found.
            </Text>
            {data.described > 0 && (
              <Text>
                <StateWord word="needs a look" /> What people, logs or rules said of {count(data.described, 'clip')} is
                forgotten too, and cannot be brought back.
              </Text>
            )}
            {data.copies > 0 && (
              <Text>
                <StateWord word="needs a look" /> It holds a copy of {count(data.copies, 'clip')} elsewhere: that copy
                is not known any more.
              </Text>
            )}
          </>
        )}
        {data && data.reasons.length > 0 && (
          <>
            <Text fontWeight="semibold">It stays, as something rests on it:</Text>
            {data.reasons.map((reason) => (
              <Text key={reason}>{reason}</Text>
            ))}
            <Text color="quiet" mt="2">
              Clips that nobody wants are taken out of the production in Clips.
            </Text>
          </>
        )}
        {error && <Problem message={error.message} />}
      </Dialog>
    </Section>
  )
}
