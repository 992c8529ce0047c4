export * from './join.ts'
