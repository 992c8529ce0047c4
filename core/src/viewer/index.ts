export * from './alignment.ts'
export * from './plays.ts'
export * from './shown.ts'
