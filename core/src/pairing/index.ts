export * from './assign.ts'
export * from './candidate.ts'
export * from './compare.ts'
export * from './verdict.ts'
