/** The rules of the house: which workspace may import which. docs/architecture.md says why. */
const only = (workspace, allowed) => ({
  name: `${workspace}-imports-only-${allowed.join('-') || 'itself'}`,
  severity: 'error',
  from: { path: `^${workspace}/` },
  to: { path: '^(core|contract|server|web|standins|e2e)/', pathNot: `^(${[workspace, ...allowed].join('|')})/` },
})

module.exports = {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    only('server', ['contract', 'core', 'standins']),
    only('web', ['contract', 'core']),
    only('standins', ['core']),
    only('e2e', []),
    {
      name: 'core-touches-nothing-outside',
      comment: 'The heart has no screen, no disk and no socket; its one package reads XML. Its tests may use the test tools.',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core', 'npm', 'npm-dev', 'npm-no-pkg', 'npm-unknown'], pathNot: 'node_modules/fast-xml-parser/' },
    },
    {
      name: 'processes-start-in-the-engine',
      comment: 'The server starts the encoder and the probe in engine/ alone; the launcher starts the database and the server itself.',
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
