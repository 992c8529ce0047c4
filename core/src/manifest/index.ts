export * from './chain.ts'
export * from './hash-list.ts'
export * from './verify.ts'
