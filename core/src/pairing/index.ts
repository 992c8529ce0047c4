export * from './compare.ts'
export * from './decode.ts'
export * from './stamped-copy.ts'
export * from './verdict.ts'
