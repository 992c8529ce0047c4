export * from './condition.ts'
export * from './production-fit.ts'
