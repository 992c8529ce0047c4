export * from './fraction.ts'
export * from './range.ts'
export * from './rate.ts'
export * from './timecode.ts'
