const transform = {
  '^.+\\.tsx?$': [
    '@swc/jest',
    {
      swcrc: false,
      module: { type: 'es6' },
      jsc: {
        target: 'es2023',
        parser: { syntax: 'typescript', tsx: true },
        transform: { react: { runtime: 'automatic' } },
      },
    },
  ],
}
const shared = { testEnvironment: '<rootDir>/jest.environment.mjs', extensionsToTreatAsEsm: ['.ts', '.tsx'], transform }

export default {
  // The server's tests wait for timers and leases much of the time: three at once fill a machine of two cores.
  maxWorkers: 3,
  projects: [
    {
      ...shared,
      displayName: 'core',
      testMatch: ['<rootDir>/core/**/*.test.ts', '<rootDir>/contract/**/*.test.ts', '<rootDir>/web/**/*.test.ts'],
    },
    {
      ...shared,
      displayName: 'server',
      testMatch: ['<rootDir>/server/**/*.test.ts', '<rootDir>/standins/**/*.test.ts'],
      globalSetup: '<rootDir>/server/src/testing/before-all.ts',
      globalTeardown: '<rootDir>/server/src/testing/after-all.ts',
    },
  ],
  testTimeout: 300_000,
}
