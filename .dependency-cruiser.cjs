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
      comment:
        'The core computes, out of itself alone: no package but a cache and a selection, nothing of Node, nothing of the browser.',
      severity: 'error',
      from: { path: '^packages/core/src' },
      to: { pathNot: '^packages/core/src|^node_modules/(lru-cache|quickselect)/' },
    },
    {
      name: 'web-without-node',
      severity: 'error',
      from: { path: '^packages/web/src' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'declared-by-its-package',
      comment: 'Each package names what it uses in its own package.json, what it runs on among the dependencies.',
      severity: 'error',
      from: { path: '^packages/([^/]+)/src', pathNot: '^packages/cli/src/bench|^packages/demo/src' },
      to: {
        dependencyTypes: ['npm-no-pkg', 'npm-unknown', 'npm-dev', 'unknown', 'undetermined'],
        pathNot: ['@types', '^packages/'],
      },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'no-folder-cycles',
      comment: 'A folder is a subject: what two of them need of each other belongs below both.',
      severity: 'error',
      scope: 'folder',
      from: { path: '^packages/(core|web)/src/' },
      to: { circular: true },
    },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.base.json' },
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
