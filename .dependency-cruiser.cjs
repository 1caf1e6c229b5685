/** Imports run one way through the house: see docs/architecture.md. */
const core = (room) => `^packages/core/src/${room}/`
const never = (name, from, to, comment) => ({ name, severity: 'error', comment, from, to })

// Each room of the core may use the rooms before it.
const FLOORS = [
  'io',
  'plist',
  'sqlite',
  'media',
  'backup',
  'collected',
  'device',
  'cloud',
  'categories',
  'findings',
  'export',
]

module.exports = {
  forbidden: [
    ...FLOORS.slice(0, -1).map((room, floor) =>
      never(
        `core-${room}-looks-down-only`,
        { path: core(room), pathNot: '\\.test\\.ts$' },
        { path: FLOORS.slice(floor + 1).map(core) },
        'io <- plist, sqlite, media <- backup <- collected <- device, cloud <- categories <- findings <- export',
      ),
    ),
    never(
      'core-knows-no-application',
      { path: '^packages/core/', pathNot: '\\.test\\.ts$' },
      { path: '^(apps|packages/(cli|standins))/|node_modules/(react|react-dom|astro|knex|mysql2)/' },
      'The core is computation only.',
    ),
    never(
      'sql-in-its-room',
      { path: '^apps/workbench/src/', pathNot: '^apps/workbench/src/(database|services|reader|server)/' },
      { path: 'node_modules/(knex|mysql2)/' },
      'Pages and islands do not talk to the database.',
    ),
    never(
      'islands-run-in-the-browser',
      { path: '^apps/workbench/src/(islands|components)/' },
      { path: '^apps/workbench/src/(database|services|server|reader)/', dependencyTypesNot: ['type-only'] },
      'An island may name the types of what it is given, and nothing more.',
    ),
    never(
      'stand-ins-stay-out',
      { path: '^(apps|packages/(core|cli))/', pathNot: '\\.test\\.ts$' },
      { path: '^packages/standins/' },
      'Stand-ins are for development and the demo.',
    ),
    never('no-circles', {}, { circular: true }, 'Two files that need each other are one, or three.'),
    never('resolvable', {}, { couldNotResolve: true, pathNot: '^astro:' }, 'Every import must exist.'),
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '/dist/|\\.astro/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.json', '.astro'],
    },
  },
}
