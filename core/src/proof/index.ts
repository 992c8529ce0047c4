export * from './colour.ts'
export * from './picture-hash.ts'
