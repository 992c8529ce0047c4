export * from './link-change.ts'
export * from './repoint.ts'
