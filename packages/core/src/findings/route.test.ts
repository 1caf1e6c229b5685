import { describe, expect, it } from 'vitest'
import { ROUTE_RULES, routeOf } from './route.js'
import type { RouteFacts, RouteSource } from './route-facts.js'

const day = (text: string) => Date.parse(`${text}T00:00:00Z`)
const source = (part: Partial<RouteSource>): RouteSource => ({
  id: 1,
  name: 'phone',
  kind: 'computer-backup',
  takenAt: day('2026-10-01'),
  ofBriefDevice: true,
  foreign: false,
  locked: false,
  canHold: true,
  read: false,
  residueRead: false,
  gaps: 0,
  busy: false,
  away: null,
  ...part,
})
const NOTHING = {
  binned: 0,
  leastDaysLeft: null,
  earlier: 0,
  rebuilt: 0,
  partial: 0,
  elsewhere: 0,
  withoutContent: 0,
}
const FACTS: RouteFacts = {
  now: day('2026-11-20'),
  timeZone: 'UTC',
  categories: ['messages'],
  lost: { from: day('2026-11-05'), to: day('2026-11-10') },
  device: 'in-use',
  syncing: null,
  sources: [],
  matching: NOTHING,
  backups: [],
  devices: [],
  snapshots: null,
  hasLibrary: false,
  done: [],
}
const before = source({ id: 1, takenAt: day('2026-10-20') })
const older = source({ id: 2, takenAt: day('2026-01-20') })
const within = source({ id: 4, takenAt: day('2026-11-07') })
const after = source({ id: 3, takenAt: day('2026-11-18') })
const read = { read: true, residueRead: true }
const backup = { path: '/b', name: 'phone', takenAt: day('2026-10-02'), encrypted: false, ofJobDevice: true }
const library = source({ id: 5, kind: 'cloud-library', ofBriefDevice: false })

// Each rule: facts on which it speaks, what it says, and facts on which it is silent.
const CASES: [string, Partial<RouteFacts>, Partial<ReturnType<typeof routeOf>[number]>, Partial<RouteFacts>][] = [
  [
    'found-in-bin',
    { matching: { ...NOTHING, binned: 3, leastDaysLeft: 4 } },
    { daysLeft: 4, do: expect.stringContaining('the 3 matching'), action: { kind: 'open', standings: ['binned'] } },
    {},
  ],
  [
    'earlier-found',
    { matching: { ...NOTHING, earlier: 1 } },
    { do: expect.stringContaining('the one matching item that') },
    {},
  ],
  ['rebuilt-found', { matching: { ...NOTHING, rebuilt: 2, partial: 1 } }, {}, {}],
  ['elsewhere-found', { matching: { ...NOTHING, elsewhere: 2 } }, {}, {}],
  ['preserve', {}, { likelihood: 'likely' }, { device: 'put-aside' }],
  ['preserve', {}, {}, { done: ['preserve'] }],
  [
    'away',
    { sources: [{ ...before, away: 'Plug it in.' }] },
    { action: { kind: 'retry', sourceId: 1 } },
    { sources: [before] },
  ],
  [
    'gaps',
    { sources: [{ ...before, ...read, gaps: 3 }] },
    { why: expect.stringContaining('3 things') },
    { sources: [before] },
  ],
  ['unlock', { sources: [{ ...before, locked: true }] }, { sourceId: 1 }, { sources: [before] }],
  ['unlock', { sources: [{ ...within, locked: true }] }, { sourceId: 4 }, { sources: [{ ...after, locked: true }] }],
  ['unlock', { sources: [{ ...before, locked: true }] }, {}, { sources: [{ ...before, locked: true, ...read }] }],
  [
    'newest-before-loss',
    { sources: [older, before, after] },
    { sourceId: 1, action: { kind: 'read', sourceId: 1 } },
    { sources: [{ ...before, read: true }] },
  ],
  // Rule 16: none towards a source that cannot hold what is sought, or of somebody else.
  ['newest-before-loss', { sources: [before] }, {}, { sources: [{ ...before, canHold: false }] }],
  ['newest-before-loss', { sources: [before] }, {}, { sources: [{ ...before, foreign: true }] }],
  ['newest-before-loss', { sources: [before] }, {}, { sources: [{ ...before, busy: true }] }],
  ['within-loss', { sources: [within] }, { sourceId: 4, likelihood: 'possible' }, { sources: [before, after] }],
  [
    'leftovers',
    { sources: [before, after] },
    { sourceId: 3, likelihood: 'possible' },
    { sources: [{ ...after, ...read }, before] },
  ],
  ['leftovers', { sources: [{ ...before, read: true }] }, { sourceId: 1 }, { sources: [{ ...before, ...read }] }],
  ['read-others', { sources: [library] }, { sourceId: 5 }, { sources: [{ ...library, ...read }] }],
  [
    'known-backup',
    { backups: [backup], sources: [after] },
    { action: { kind: 'add-backup', locked: false, path: '/b' }, likelihood: 'likely' },
    { backups: [{ ...backup, ofJobDevice: false }], sources: [after] },
  ],
  ['known-backup', { backups: [{ ...backup, ofJobDevice: false }] }, {}, {}],
  ['known-device', { devices: [{ udid: 'u', name: 'phone' }] }, { action: { kind: 'add-device', udid: 'u' } }, {}],
  [
    'known-snapshot',
    { snapshots: [{ id: 's', name: 'phone', takenAt: day('2026-10-02'), ofJobDevice: true }] },
    { action: { kind: 'add-snapshot', id: 's' } },
    { sources: [after], snapshots: [{ id: 's', name: 'phone', takenAt: null, ofJobDevice: false }] },
  ],
  ['device-bin', {}, { daysLeft: 20, likelihood: 'likely' }, { device: 'erased' }],
  ['device-bin', { now: day('2026-12-15') }, { daysLeft: 0, likelihood: 'possible' }, { now: day('2027-02-01') }],
  ['device-bin', {}, {}, { lost: null }],
  ['device-bin', {}, {}, { sources: [source({ kind: 'device', ...read })] }],
  ['cloud-account', {}, { likelihood: 'possible' }, { syncing: false }],
  ['cloud-account', { syncing: true }, { likelihood: 'likely' }, { hasLibrary: true }],
  ['ask-for-backup', { sources: [after] }, { likelihood: 'possible' }, { sources: [before] }],
  ['ask-for-backup', { sources: [{ ...before, ofBriefDevice: false }] }, {}, { sources: [before] }],
  ['device-locked', { device: 'locked' }, { likelihood: 'possible' }, { device: 'in-use' }],
  [
    'device-does-not-start',
    { device: 'does-not-start' },
    { cost: expect.stringContaining('risk') },
    { device: 'erased' },
  ],
  ['media-cannot-be-rebuilt', { categories: ['photos'] }, { likelihood: 'possible' }, { categories: ['messages'] }],
  [
    'media-cannot-be-rebuilt',
    { categories: ['videos'] },
    {},
    { categories: ['videos'], matching: { ...NOTHING, earlier: 1 } },
  ],
  ['erased', { device: 'erased' }, { likelihood: 'none' }, {}],
  ['full-restore-last', { sources: [before] }, { sourceId: 1 }, { sources: [after] }],
  ['full-restore-last', { sources: [before] }, {}, { sources: [{ ...before, ...read }] }],
  ['full-restore-last', { sources: [before] }, {}, { sources: [{ ...before, ofBriefDevice: false }] }],
]

describe('the route', () => {
  it.each(CASES)('%s speaks where it should, and is silent otherwise', (rule, facts, expected, silent) => {
    const steps = (part: Partial<RouteFacts>) => routeOf({ ...FACTS, ...part }).filter((one) => one.rule === rule)
    expect(steps(facts)[0]).toMatchObject({ action: expect.anything(), ...expected })
    expect(steps(silent)).toEqual([])
  })

  it('tests every rule', () => {
    expect(new Set(CASES.map(([rule]) => rule))).toEqual(new Set(ROUTE_RULES.map(({ id }) => id)))
  })

  it('claims nothing of a loss whose days the brief does not name', () => {
    const facts: Partial<RouteFacts> = {
      sources: [before, { ...before, id: 9, locked: true }],
      backups: [backup],
    }
    const words = (lost: RouteFacts['lost']) =>
      routeOf({ ...FACTS, ...facts, lost })
        .filter(({ rule }) => ['unlock', 'newest-before-loss', 'known-backup'].includes(rule))
        .map(({ why }) => why)
    expect(words(FACTS.lost).filter((why) => /before the loss/.test(why))).toHaveLength(3)
    expect(words(null)).toHaveLength(3)
    for (const why of words(null)) expect(why).not.toMatch(/before the loss|lost after it/)
  })

  it('says how whole the leftovers are without counting what there is none of', () => {
    const words = (part: object) => routeOf({ ...FACTS, matching: { ...NOTHING, ...part } })[0]?.do
    expect(words({ rebuilt: 2 })).toBe('Look at the 2 matching items from leftovers (whole).')
    expect(words({ partial: 1 })).toBe('Look at the one matching item from leftovers (only parts).')
    expect(words({ rebuilt: 2, partial: 1 })).toBe('Look at the 3 matching items from leftovers (2 whole, 1 in part).')
  })

  it('opens what was found first, asks the owner after all that is known, and restores last', () => {
    const order = routeOf({
      ...FACTS,
      sources: [{ ...before, locked: true, takenAt: day('2026-11-07') }, after],
      backups: [{ ...backup, takenAt: day('2026-11-19') }],
      matching: { ...NOTHING, rebuilt: 1 },
    }).map(({ rule }) => rule)
    expect(order).toEqual([
      'rebuilt-found',
      'preserve',
      'unlock',
      'leftovers',
      'known-backup',
      'device-bin',
      'cloud-account',
      'ask-for-backup',
    ])
  })
})

it('offers backups of the year before the loss first, and those of long ago last', () => {
  const places = [
    { ...backup, path: '/of-2015', takenAt: day('2015-08-30') },
    { ...backup, path: '/after', takenAt: day('2026-11-18') },
    { ...backup, path: '/before', takenAt: day('2026-10-20') },
  ]
  const steps = routeOf({ ...FACTS, backups: places }).filter(({ rule }) => rule === 'known-backup')
  expect(steps.map(({ action, likelihood }) => [action.kind === 'add-backup' && action.path, likelihood])).toEqual([
    ['/before', 'likely'],
    ['/after', 'possible'],
    ['/of-2015', 'possible'],
  ])
})
