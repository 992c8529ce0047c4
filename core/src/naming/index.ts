export * from './names.ts'
export * from './paths.ts'
export * from './reel.ts'
export * from './reel-rule.ts'
