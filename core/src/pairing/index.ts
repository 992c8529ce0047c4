export * from './compare.ts'
export * from './decode.ts'
export * from './verdict.ts'
