import { Box, Button, Field, HStack, Input, Text } from '@chakra-ui/react'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Wipe } from './wipe.tsx'

/** A .cube file is checked and tried on a frame before it comes into the library. */
export function AddLut({ groups, clipId }: { groups: readonly string[]; clipId: string | null }): ReactElement {
  const [text, setText] = useState<string | null>(null)
  const [name, setName] = useState('')
  const [group, setGroup] = useState(groups[0] ?? 'From the production')
  const attempt = useChange('tryLut')
  const add = useChange('addLut', () => {
    setText(null)
    attempt.reset()
  })
  const choose = async (file: File | undefined): Promise<void> => {
    attempt.reset()
    add.reset()
    setText(null)
    if (!file) return
    const given = await file.text()
    setText(given)
    setName(file.name.replace(/\.cube$/i, ''))
    attempt.mutate(
      { body: { text: given, clipId } },
      {
        onSuccess: ({ title }) => {
          if (title) setName(title)
        },
      },
    )
  }
  const found = attempt.data
  return (
    <Box>
      <Field.Root maxWidth="30rem">
        <Field.Label>Add a LUT: a .cube file</Field.Label>
        <Input
          type="file"
          accept=".cube"
          py="1"
          size="sm"
          aria-label="LUT file"
          onChange={(event) => void choose(event.target.files?.[0])}
        />
      </Field.Root>
      {attempt.isPending && <Loading what="the LUT" />}
      {attempt.error && <Problem message={attempt.error.message} />}
      {text !== null && found && (
        <Box mt="3">
          <Text mb="2">
            A {found.kind} LUT of {found.size} points. {clipId === null ? 'Choose clips to see it on a frame.' : ''}
          </Text>
          {found.before !== null && found.after !== null && (
            <Box maxWidth="30rem" mb="3">
              <Wipe before={found.before} after={found.after} />
            </Box>
          )}
          <HStack gap="4" align="end">
            <Field.Root>
              <Field.Label>Its name</Field.Label>
              <Input size="sm" value={name} onChange={(event) => setName(event.target.value)} />
            </Field.Root>
            <Field.Root>
              <Field.Label>Its group</Field.Label>
              <Input size="sm" value={group} onChange={(event) => setGroup(event.target.value)} />
            </Field.Root>
            <Button size="sm" loading={add.isPending} onClick={() => add.mutate({ body: { name, group, text } })}>
              Add to the library
            </Button>
          </HStack>
          {add.error && <Problem message={add.error.message} />}
        </Box>
      )}
    </Box>
  )
}
