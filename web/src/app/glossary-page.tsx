import { Box, Text } from '@chakra-ui/react'
import { Fragment, type ReactElement, useState } from 'react'
import { FilterField } from '../parts/filter-field.tsx'
import { Page } from '../parts/page.tsx'
import { count } from '../parts/words.ts'
import { glossary } from './glossary.ts'

/** Every word that a screen uses, with its sentence. */
export function GlossaryPage(): ReactElement {
  const [words, setWords] = useState('')
  const wanted = words.trim().toLowerCase()
  const shown = glossary.filter((entry) => entry.some((text) => text.toLowerCase().includes(wanted)))
  return (
    <Page
      title="Glossary"
      answer={wanted ? `${shown.length} of ${count(glossary.length, 'word')}` : count(glossary.length, 'word')}
      actions={<FilterField label="Filter words" value={words} onChange={setWords} />}
    >
      {shown.length === 0 && <Text color="quiet">No word here has this in it.</Text>}
      <Box as="dl" display="grid" gridTemplateColumns="13rem 1fr" columnGap="5" rowGap="2" maxWidth="62rem">
        {shown.map(([word, meaning]) => (
          <Fragment key={word}>
            <Box as="dt" fontWeight="semibold">
              {word}
            </Box>
            <Box as="dd">{meaning}</Box>
          </Fragment>
        ))}
      </Box>
    </Page>
  )
}
