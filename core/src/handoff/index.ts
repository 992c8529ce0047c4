export * from './conform.ts'
export * from './preflight.ts'
export * from './report.ts'
