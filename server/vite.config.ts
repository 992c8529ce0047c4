import { defineConfig } from 'vite'

/** What node runs: the processes, and the modules that threads begin with. */
const programs = [
  ...['main-server', 'main-worker', 'launch/start', 'launch/stop', 'launch/reset', 'launch/worker'],
  ...['reading/reading-thread', 'engine/copy-thread', 'engine/hearing-thread', 'sync/matching-thread'],
  // Of the tests, which run what people run.
  'testing/parts-host',
]

/** Module for module, so that what lies beside the source (migrations, LUTs) lies as far from what is built. */
export default defineConfig({
  build: {
    ssr: true,
    target: 'node20',
    // A server that runs from here while its next version is built still finds its modules.
    emptyOutDir: false,
    rolldownOptions: {
      input: programs.map((name) => `src/${name}.ts`),
      output: { preserveModules: true, preserveModulesRoot: 'src', entryFileNames: '[name].js' },
    },
  },
})
