import {
  Ban,
  Check,
  CheckCheck,
  CircleDashed,
  CircleDot,
  CircleHelp,
  Clock,
  Equal,
  EqualNot,
  Eye,
  FileX,
  Film,
  Hand,
  HardDrive,
  History,
  type LucideIcon,
  Luggage,
  Pause,
  Play,
  Scissors,
  StickyNote,
  Unlink,
  Unplug,
  VolumeX,
} from 'lucide-react'
import type { ReactElement } from 'react'

/** Every word of state with its icon. The icon repeats the word; neither relies on colour. */
const icons: Readonly<Record<string, LucideIcon>> = {
  proven: CheckCheck,
  matched: Equal,
  unchecked: CircleHelp,
  stale: History,
  mismatched: EqualNot,
  'proxy gone': FileX,
  'proxy away': Luggage,
  'original gone': FileX,
  'original away': Luggage,
  'both gone': FileX,
  here: HardDrive,
  away: Luggage,
  gone: FileX,
  'on original': Check,
  'on proxy': Film,
  short: Scissors,
  unresolved: Unlink,
  'blocks handoff': Ban,
  contradiction: Ban,
  held: Hand,
  paused: Pause,
  'needs a look': Eye,
  note: StickyNote,
  waiting: Clock,
  running: Play,
  done: Check,
  failed: Ban,
  cancelled: Hand,
  passes: Check,
  decided: Hand,
  blocks: Ban,
  undone: History,
  'no proxy': CircleDashed,
  fits: Check,
  likely: CircleHelp,
  waits: Clock,
  'original damaged': FileX,
  ambiguous: CircleHelp,
  refused: Ban,
  'not found': CircleDashed,
  circled: CircleDot,
  'proxy plays, original lost': FileX,
  'proxy plays, original away': Luggage,
  'only on a card': HardDrive,
  'no sound on a track': VolumeX,
  'gap in stills': CircleDashed,
  'reel overlap': EqualNot,
  'odd notes': CircleHelp,
  'odd date': CircleHelp,
  'cut as it is': Check,
  proxy: Film,
  transcode: Film,
  'not measured': CircleHelp,
  matches: Check,
  changed: EqualNot,
  there: Check,
  another: EqualNot,
  missing: FileX,
  extra: CircleHelp,
  'not checked': CircleHelp,
  'not copied': Ban,
  lost: Unplug,
}

const calm = new Set([
  'proven',
  'matched',
  'here',
  'on original',
  'done',
  'passes',
  'note',
  'no proxy',
  'cancelled',
  'undone',
  'waiting',
  'fits',
  'circled',
  'cut as it is',
  'matches',
  'there',
  'extra',
])

/** A state as a word with an icon; what needs somebody is set in ink, what is well stays quiet. */
export function StateWord({ word, times }: { word: string; times?: number }): ReactElement {
  const Icon = icons[word] ?? CircleHelp
  const quiet = calm.has(word)
  return (
    <span className={quiet ? 'state quiet' : 'state'}>
      <Icon size={14} aria-hidden strokeWidth={quiet ? 1.75 : 2.25} />
      <span>
        {word}
        {times !== undefined && times > 1 ? ` × ${times}` : ''}
      </span>
    </span>
  )
}
