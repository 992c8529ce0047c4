import { Text as Words } from '@chakra-ui/react'
import type { RecipeDraft } from '@ennick/contract'
import { nameFields } from '@ennick/core'
import type { ReactElement } from 'react'
import { Section } from '../../parts/sheet.tsx'
import { Choice, Numeral, type RecipeFieldsProps, Row, Text } from './field-parts.tsx'

const levels = [null, 0, 1, 2, 3, 4] as const
const levelWords = (count: number | null): string =>
  count === null
    ? 'all folders of the original'
    : count === 0
      ? 'none: all files together'
      : count === 1
        ? 'its last folder'
        : `its last ${count} folders`

/** What made files are called and where they lie; the examples stand in the facts beside. */
export function NameFields({ draft, onChange }: RecipeFieldsProps): ReactElement {
  const { folders } = draft
  const change = (next: RecipeDraft['folders']): void => onChange({ folders: next })
  return (
    <Section title="Name and folders">
      <Row>
        <Text
          label="Name of what is made"
          value={draft.namePattern}
          onChange={(namePattern) => onChange({ namePattern })}
        />
        <Text label="Suffix of the name" value={draft.suffix} onChange={(suffix) => onChange({ suffix })} />
      </Row>
      <Words color="fg.muted" fontSize="xs" mb="3">
        Fields: {nameFields.map((field) => `{${field}}`).join(' ')} {'{counter:3}'}. What stands in [ ] goes when its
        field is empty.
      </Words>
      <Row>
        <Choice
          label="Folders"
          value={folders.kind === 'mirrored' ? String(folders.levels) : 'numbered'}
          options={[
            ...levels.map((count) => [String(count), levelWords(count)] as const),
            ['numbered', 'numbered folders, n files each'],
          ]}
          onChange={(next) =>
            change(
              next === 'numbered'
                ? { kind: 'numbered', root: 'Room media/MXF', filesPerFolder: 2000 }
                : { kind: 'mirrored', levels: next === 'null' ? null : Number(next) },
            )
          }
        />
        {folders.kind === 'numbered' && (
          <Row isTight>
            <Text label="Below the folder" value={folders.root} onChange={(root) => change({ ...folders, root })} />
            <Numeral
              label="Files in each"
              value={folders.filesPerFolder}
              onChange={(filesPerFolder) => change({ ...folders, filesPerFolder })}
            />
          </Row>
        )}
      </Row>
    </Section>
  )
}
