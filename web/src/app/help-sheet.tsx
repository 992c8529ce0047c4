import { Button, Grid, Kbd, Text } from '@chakra-ui/react'
import { Fragment, type ReactElement } from 'react'
import { useNavigate } from 'react-router'
import { Section, Sheet } from '../parts/sheet.tsx'
import { useProduction } from './production.tsx'
import { stops } from './stops.ts'

const lists = [
  ['/', 'go to the filter'],
  ['j  k', 'next and previous row'],
  ['Enter', 'open the row'],
  ['x', 'mark the row'],
  ['Shift x', 'mark from the last mark to here'],
  ['a', 'mark all rows, or clear all marks'],
  ['Esc', 'leave the filter, close what is open'],
] as const

const clips = [
  ['PageUp  PageDown', 'ten rows up or down'],
  ['Home  End', 'the first and the last row'],
  ['e', 'edit the first cell of the row'],
  ['Tab', 'keep the cell and edit the next'],
  ['Enter', 'keep the cell and edit the one below'],
  ['Esc', 'leave the cell as it was'],
  ['Ctrl Z', 'take the last change back'],
  ['Ctrl Shift Z', 'do it again'],
  ['Shift click', 'on a heading: sort by it as well'],
] as const

const viewer = [
  ['v', 'on a row: open the viewer'],
  ['l  k  j', 'play, stop, play backwards; again is faster'],
  ['←  →', 'a frame back or on, with Shift a second'],
  ['Home  m  End', 'head, middle, tail'],
  ['i  o', 'in point and out point'],
  ['1  2  3', 'show this file of the clip'],
  ['c', 'compare with the next file'],
  ['w  f  b  d', 'wipe, flip, side by side, difference'],
  ['z', 'zoom to pixels'],
  ['n', 'write a note'],
  [',  .', 'event before, next event of a watched cut'],
] as const

const everywhere = [
  ['Ctrl K', 'find anything, do anything'],
  ['s', 'what the viewer shows of all clips'],
  ['d', 'paper or dim room'],
  ['?', 'this list'],
] as const

export function HelpSheet({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  return (
    <Sheet title="Keys and words" isOpen={isOpen} onClose={onClose}>
      <Button
        size="sm"
        variant="outline"
        mb="3"
        onClick={() => {
          onClose()
          void navigate(`/p/${production.id}/glossary`)
        }}
      >
        What the words mean: the glossary
      </Button>
      <Section title="Everywhere">
        <KeyList rows={everywhere} />
      </Section>
      <Section title="To a stop">
        <KeyList rows={[['g t', 'Today'], ...stops.map((stop) => [`g ${stop.letter}`, stop.name] as const)]} />
      </Section>
      <Section title="In the viewer">
        <KeyList rows={viewer} />
      </Section>
      <Section title="In a list">
        <KeyList rows={lists} />
      </Section>
      <Section title="In the table of clips">
        <KeyList rows={clips} />
      </Section>
    </Sheet>
  )
}

function KeyList({ rows }: { rows: readonly (readonly [string, string])[] }): ReactElement {
  return (
    <Grid templateColumns="7rem 1fr" rowGap="1.5">
      {rows.map(([keys, what]) => (
        <Fragment key={keys}>
          <span>
            {keys.split(/ +/).map((key) => (
              <Kbd key={key} mr="1">
                {key}
              </Kbd>
            ))}
          </span>
          <Text>{what}</Text>
        </Fragment>
      ))}
    </Grid>
  )
}
