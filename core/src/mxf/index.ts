export * from './atom-set.ts'
export { bytesToPrimer, headerEnd } from './header-metadata.ts'
export { MxfError } from './klv.ts'
export { timecodeBase } from './timecode-base.ts'
