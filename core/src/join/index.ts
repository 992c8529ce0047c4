export * from './join.ts'
export * from './take-apart.ts'
