/** The rules of the house: which workspace may import which. docs/architecture.md says why. */
const only = (workspace, allowed) => ({
  name: `${workspace}-imports-only-${allowed.join('-') || 'itself'}`,
  severity: 'error',
  from: { path: `^${workspace}/` },
  to: { path: '^(core|contract|server|web|standins|e2e)/', pathNot: `^(${[workspace, ...allowed].join('|')})/` },
})

/**
 * The server from its ground up: a folder or file may import those before it, never one behind it. First the floor that
 * all stand on, then the stops in the order of the line, then what puts them together.
 */
const floors = [
  ...[
    'contribution',
    'program',
    'threads',
    'disk',
    'errors',
    'config',
    'engine',
    'reading',
    'store',
    'http',
    'queue',
    'placements',
    'ledger',
  ],
  ...['intake', 'clips', 'sync', 'make', 'pairs', 'cuts', 'viewer', 'mend', 'trial', 'handoff', 'today'],
  ...['stops', 'app', 'serve', 'main-server', 'main-worker', 'launch', 'testing'],
]
const ofFloors = (names) => `^server/src/(${names.join('|')})(/|\\.(test\\.)?ts$)`
const neverBack = floors.slice(0, -1).map((floor, index) => ({
  name: `${floor}-imports-nothing-behind-it`,
  severity: 'error',
  from: { path: ofFloors([floor]), pathNot: '\\.test\\.ts$' },
  to: { path: ofFloors(floors.slice(index + 1)) },
}))
const everyFolderHasItsPlace = {
  name: 'every-folder-of-the-server-has-its-place',
  severity: 'error',
  from: { path: '^server/src/', pathNot: ofFloors(floors) },
  to: { path: '.' },
}

module.exports = {
  forbidden: [
    ...neverBack,
    everyFolderHasItsPlace,
    only('core', []),
    only('contract', ['core']),
    only('server', ['contract', 'core', 'standins']),
    only('web', ['contract', 'core']),
    only('standins', ['core']),
    only('e2e', []),
    {
      name: 'core-touches-nothing-outside',
      comment:
        'The heart has no screen, no disk and no socket; its packages read XML and regular expressions. Its tests may use the test tools.',
      severity: 'error',
      from: { path: '^core/', pathNot: '(\\.test\\.ts|^core/src/testing/.*)$' },
      to: {
        dependencyTypes: ['core', 'npm', 'npm-dev', 'npm-no-pkg', 'npm-unknown'],
        pathNot: 'node_modules/(fast-xml-parser|re2js|saxes)/',
      },
    },
    {
      name: 'processes-start-in-the-engine',
      comment:
        'The server starts the encoder and the probe in engine/ alone; the launcher starts the database and the server itself.',
      severity: 'error',
      from: { path: '^server/src/', pathNot: '^server/src/(engine|launch)/|\\.test\\.ts$|^server/src/testing/' },
      to: { path: '^(child_process|node:child_process|execa)$|node_modules/execa' },
    },
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    { name: 'nothing-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '^@fontsource' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|migrations)/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.json'],
    },
  },
}
