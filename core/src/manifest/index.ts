export * from './chain.ts'
export * from './checksum-list.ts'
export * from './hash-list.ts'
export * from './verify.ts'
