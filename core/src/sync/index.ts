export * from './by-timecode.ts'
export * from './sound-words.ts'
export * from './timecode-span.ts'
