export * from './hash-list.ts'
export * from './verify.ts'
