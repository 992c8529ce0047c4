/** The seven stops of the line, in the order of work, and the letter that goes to each after "g". */
export const stops = [
  { id: 'intake', name: 'Intake', letter: 'i', waits: 'volumes away or not scanned' },
  { id: 'clips', name: 'Clips', letter: 'c', waits: 'pictures without a reel' },
  { id: 'make', name: 'Make', letter: 'm', waits: 'jobs waiting or running' },
  { id: 'pairs', name: 'Pairs', letter: 'p', waits: 'pairs that need a look' },
  { id: 'cuts', name: 'Cuts', letter: 'u', waits: 'cuts not wholly on originals' },
  { id: 'mend', name: 'Mend', letter: 'e', waits: 'findings' },
  { id: 'handoff', name: 'Handoff', letter: 'h', waits: 'cuts ready to hand off' },
] as const
