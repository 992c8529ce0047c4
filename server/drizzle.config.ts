import { defineConfig } from 'drizzle-kit'

export default defineConfig({
  dialect: 'postgresql',
  schema: [
    './src/store/schema.ts',
    './src/store/job-schema.ts',
    './src/store/catalogue-schema.ts',
    './src/store/recipe-schema.ts',
    './src/store/lut-schema.ts',
    './src/store/worker-schema.ts',
    './src/store/placement-schema.ts',
    './src/store/viewer-schema.ts',
    './src/store/handoff-schema.ts',
  ],
  out: './migrations',
})
