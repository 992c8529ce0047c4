export * from './formats/index.ts'
export * from './model.ts'
export * from './resolution.ts'
export * from './resolve.ts'
