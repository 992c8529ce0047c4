export * from './condition.ts'
