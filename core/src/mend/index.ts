export * from './link-change.ts'
