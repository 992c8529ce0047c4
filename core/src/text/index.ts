export * from './canonical-json.ts'
export * from './clean-text.ts'
export * from './group-by.ts'
export * from './regular-expression.ts'
