/** The seven stops of the line, in the order of work; the letter that goes to each after "g", and what waits there. */
export const stops = [
  { id: 'intake', name: 'Intake', letter: 'i', waits: ['volume away or not scanned', 'volumes away or not scanned'] },
  { id: 'clips', name: 'Clips', letter: 'c', waits: ['picture without a reel', 'pictures without a reel'] },
  { id: 'make', name: 'Make', letter: 'm', waits: ['job waiting or running', 'jobs waiting or running'] },
  { id: 'pairs', name: 'Pairs', letter: 'p', waits: ['pair that needs a look', 'pairs that need a look'] },
  { id: 'cuts', name: 'Cuts', letter: 'u', waits: ['cut not wholly on originals', 'cuts not wholly on originals'] },
  { id: 'mend', name: 'Mend', letter: 'e', waits: ['finding', 'findings'] },
  { id: 'handoff', name: 'Handoff', letter: 'h', waits: ['cut ready to hand off', 'cuts ready to hand off'] },
] as const
