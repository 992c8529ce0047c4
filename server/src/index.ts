export { readConfig } from './config.ts'
export { serve } from './serve.ts'
