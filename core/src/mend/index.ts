export * from './collection.ts'
export * from './link-change.ts'
export * from './order-of-work.ts'
