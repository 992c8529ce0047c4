import { Box, chakra, Text } from '@chakra-ui/react'
import { FolderCheck, FolderX } from 'lucide-react'
import type { ReactElement } from 'react'
import { useRead } from '../data/queries.ts'
import { Loading, Problem } from '../parts/notices.tsx'
import { Page } from '../parts/page.tsx'
import { Section } from '../parts/sheet.tsx'
import { count } from '../parts/words.ts'
import { ArchiveSection } from './archive-section.tsx'
import { LedgerSection } from './ledger-section.tsx'
import { MadePlaces } from './made-places.tsx'
import { ProductionFormat } from './production-settings.tsx'
import { RestoredSection } from './restored-section.tsx'
import { TargetSetting } from './target-setting.tsx'

/**
 * What the production is, where what is made goes, and what this Ennick may touch: that is set on its own machine
 * alone, so that nobody widens it from a browser.
 */
export function SettingsPage(): ReactElement {
  const allowed = useRead('listAllowedFolders', {})
  if (allowed.isPending) return <Loading what="the settings" />
  if (allowed.error) return <Problem message={allowed.error.message} />
  const scope = 'What the production is, where what is made goes and who receives it'
  const folders = count(allowed.data.length, 'folder')
  return (
    <Page title="Settings" answer={`${scope}, and the ${folders} that Ennick may use`}>
      <RestoredSection />
      <ProductionFormat />
      <MadePlaces />
      <TargetSetting />
      <ArchiveSection />
      <LedgerSection />
      <Section title="Folders that Ennick may use">
        <Text mb="2">Volumes, and what is made, may lie in these and below, and nowhere else.</Text>
        <Box as="ul" listStyleType="none" mb="5">
          {allowed.data.map(({ path, isHere }) => (
            <Box as="li" key={path} display="flex" alignItems="center" gap="2" py="1">
              {isHere ? <FolderCheck size={16} aria-hidden /> : <FolderX size={16} aria-hidden />}
              <Text fontFamily="mono" overflowWrap="anywhere">
                {path}
              </Text>
              <Text color="quiet">{isHere ? 'is there' : 'is not there now'}</Text>
            </Box>
          ))}
        </Box>
        <Text fontWeight="semibold">To allow another folder</Text>
        <Text>Run this on the machine that runs Ennick; it holds at once, without a restart:</Text>
        <chakra.pre fontFamily="mono" bg="bg.subtle" p="3" my="2" overflowX="auto">
          ./ennick start --allow /path/of/the/folder
        </chakra.pre>
        <Text color="quiet">
          It is kept under “alsoAllowed” in settings.json in the data folder. To take a folder back, remove its line
          there: volumes in it are away from then on.
        </Text>
      </Section>
    </Page>
  )
}
