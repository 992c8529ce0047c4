import { Box } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { Tab, TabList } from '../parts/tab-list.tsx'
import { ProductionForm } from './production-form.tsx'
import { RestoreForm } from './restore-form.tsx'

/** A production that begins, or one that comes back from its archive. */
export function NewProduction({ onDone }: { onDone: (address: string) => void }): ReactElement {
  const [isFromArchive, setFromArchive] = useState(false)
  return (
    <Box>
      <Box mb="4">
        <TabList label="How a production begins">
          <Tab isChosen={!isFromArchive} onChoose={() => setFromArchive(false)}>
            An empty one
          </Tab>
          <Tab isChosen={isFromArchive} onChoose={() => setFromArchive(true)}>
            From its archive
          </Tab>
        </TabList>
      </Box>
      {isFromArchive ? (
        <RestoreForm onDone={({ productionId }) => onDone(`/p/${productionId}/settings`)} />
      ) : (
        <ProductionForm onDone={({ id }) => onDone(`/p/${id}/intake`)} />
      )}
    </Box>
  )
}
