// Imports go one way: routes -> ui -> core, routes -> server -> core. Rooms of the server have rules of their own, in .dependency-cruiser.rooms.cjs. tests/unit/import-direction.test.ts shows that these rules bite.
const not = (name, comment, from, to) => ({ name, comment, severity: 'error', from, to });

/** @type {import('dependency-cruiser').IConfiguration} */
module.exports = {
  forbidden: [
    not('no-cycles', 'Two modules that need each other are one module.', {}, { circular: true }),
    not(
      'core-is-pure',
      'The core imports only itself, Zod and packages that compute: no I/O, no Node, no Svelte.',
      { path: '^src/lib/core/', pathNot: '\\.test\\.ts$' },
      {
        pathNot: [
          '^src/lib/core/',
          '^node_modules/(zod|luxon|@types/luxon|re2js|chevrotain|minisearch|fast-deep-equal|yaml|ical\\.js|mustache|@types/mustache|simple-statistics)/'
        ]
      }
    ),
    not(
      'ui-not-server',
      'The interface never imports the server.',
      { path: '^src/lib/ui/' },
      { path: '^src/lib/server/' }
    ),
    not(
      'server-not-ui',
      'The server never imports the interface.',
      { path: '^src/lib/server/' },
      { path: '^src/lib/ui/' }
    ),
    not('lib-not-routes', 'Nothing imports a route.', { path: '^src/lib/' }, { path: '^src/routes/' }),
    not(
      'stand-ins-alone',
      'A stand-in is a program of its own: it shares no code with Bussola.',
      { path: '^stand-ins/', pathNot: '\\.test\\.ts$' },
      { path: '^(src|demo|bench)/' }
    ),
    not(
      'no-import-of-stand-ins',
      'Bussola reaches stand-ins over their protocols only.',
      { path: '^src/', pathNot: '\\.test\\.ts$' },
      { path: '^(stand-ins|demo|bench|tests)/' }
    )
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'svelte', 'types'],
      extensions: ['.ts', '.js', '.mjs', '.cjs', '.svelte', '.json']
    },
    webpackConfig: { fileName: '.dependency-cruiser.resolve.cjs' }
  }
};
