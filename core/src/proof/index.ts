export * from './picture-hash.ts'
