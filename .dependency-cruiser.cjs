/** The layers' order: core <- media <- pipeline <- cli and server; web and contracts beside; nobody imports demo. */
const only = (name, allowed) => ({
  name: `${name}-imports`,
  severity: 'error',
  from: { path: `^packages/${name}/src` },
  to: { path: '^packages/', pathNot: [name, ...allowed].map((p) => `^packages/${p}/`) },
});

module.exports = {
  forbidden: [
    only('core', []),
    only('contracts', []),
    only('media', ['core']),
    only('pipeline', ['core', 'media', 'contracts']),
    only('cli', ['core', 'media', 'pipeline', 'contracts']),
    only('server', ['core', 'media', 'pipeline', 'contracts']),
    only('web', ['core', 'contracts']),
    only('demo', ['core', 'media']),
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { dependencyTypes: ['core', 'npm', 'npm-dev'] },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    exclude: { path: 'generated|/test/|/e2e/' },
    enhancedResolveOptions: {
      extensions: ['.ts', '.vue', '.js', '.mjs'],
      exportsFields: ['exports'],
      conditionNames: ['import', 'default'],
    },
  },
};
