export * from './formats/index.ts'
export * from './model.ts'
export * from './resolve.ts'
