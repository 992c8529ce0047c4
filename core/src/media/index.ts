export * from './codec.ts'
export * from './facts.ts'
export * from './passed-over.ts'
export * from './still-format.ts'
