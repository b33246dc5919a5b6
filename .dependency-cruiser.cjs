/** Who may import whom; see docs/architecture.md. */
module.exports = {
  forbidden: [
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'core-imports-itself',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test(kit)?\\.ts$' },
      to: { pathNot: ['^core/src', 'node_modules/(zod|papaparse)'] },
    },
    { name: 'web-not-server', severity: 'error', from: { path: '^web/src' }, to: { path: '^(server|demo)/' } },
    { name: 'server-not-web', severity: 'error', from: { path: '^server/src' }, to: { path: '^web/' } },
    {
      name: 'stations-apart',
      severity: 'error',
      from: { path: '^web/src/stations/([^/]+)/' },
      to: { path: '^web/src/stations/', pathNot: '^web/src/stations/$1/' },
    },
    {
      name: 'demo-imports-core',
      severity: 'error',
      from: { path: '^demo/', pathNot: '\\.test\\.ts$' },
      to: { path: '^(web|server)/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.vue', '.mjs', '.js'],
    },
    exclude: { path: '\\.test\\.ts$' },
  },
};
