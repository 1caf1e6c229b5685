/** Imports run one way through the house: see docs/architecture.md. */
const core = (room) => `^packages/core/src/${room}/`
const workbench = (room) => `^apps/workbench/src/${room}/`
const TESTS = '\\.test\\.tsx?$'
const never = (name, from, to, comment) => ({ name, severity: 'error', comment, from, to })

// Each room may use the rooms before it.
const CORE = [
  'io',
  'plist',
  'sqlite',
  'media',
  'backup',
  'copies',
  'collected',
  'device',
  'cloud',
  'categories',
  'findings',
  'export',
]
const RESIDUE = ['evidence', 'scan', 'compare']
const WORKBENCH = ['domain', 'database', 'services', 'server', 'pages']
const BROWSER = ['domain', 'api', 'components', 'islands', 'site', 'playground']

/** Rules for rooms that stand on each other. */
const floors = (house, rooms, place) =>
  rooms
    .slice(0, -1)
    .map((room, floor) =>
      never(
        `${house}-${room}-looks-down-only`,
        { path: place(room), pathNot: TESTS },
        { path: rooms.slice(floor + 1).map(place) },
        rooms.join(' <- '),
      ),
    )

module.exports = {
  forbidden: [
    ...floors('core', CORE, core),
    ...floors('residue', RESIDUE, (room) => `^packages/core/src/sqlite/residue/${room}/`),
    never(
      'core-knows-no-application',
      { path: '^packages/core/', pathNot: TESTS },
      { path: '^(apps|packages/(cli|standins))/|node_modules/(react|react-dom|astro|knex|mysql2)/' },
      'The core is computation only.',
    ),
    ...floors('workbench', WORKBENCH, workbench),
    never(
      'sql-in-its-room',
      { path: '^apps/workbench/src/', pathNot: '^apps/workbench/src/database/' },
      { path: 'node_modules/(knex|mysql2)/' },
      'SQL is written in database/ and nowhere else.',
    ),
    never(
      'pages-ask-services',
      { path: '^apps/workbench/src/(pages|layouts)/' },
      { path: '^apps/workbench/src/database/' },
      'A page or an endpoint parses, calls services and answers.',
    ),
    ...floors('browser', BROWSER, workbench),
    never(
      'the-browser-has-no-server',
      { path: '^apps/workbench/src/(islands|components|site)/', pathNot: TESTS },
      { path: '^apps/workbench/src/(database|services|server|reader|pages)/' },
      'Islands and components know the domain and the contracts.',
    ),
    never(
      'pages-stay-small',
      { path: '^apps/workbench/src/(islands|components|site)/', pathNot: TESTS },
      { path: 'node_modules/zod/', dependencyTypesNot: ['type-only'] },
      'Contracts are checked on the server; the browser has their types.',
    ),
    never(
      'pages-of-packages-ask-nobody',
      { path: '^apps/workbench/src/site/', pathNot: TESTS },
      { path: '^apps/workbench/src/(api|islands)/' },
      'They open from a folder, where no server answers.',
    ),
    never(
      'stand-ins-stay-out',
      { path: '^(apps|packages/(core|cli))/', pathNot: TESTS },
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
