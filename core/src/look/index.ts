export * from './cube.ts'
