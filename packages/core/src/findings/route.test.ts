import { describe, expect, it } from 'vitest'
import { answerOf } from './answer.js'
import { MATCHES_FROM, matchOf, type Sought } from './match.js'
import { ROUTE_RULES, routeOf } from './route.js'
import type { RouteFacts, RouteSource } from './route-facts.js'
import { lossWindow, overlaps } from './window.js'

const day = (text: string) => Date.parse(`${text}T00:00:00Z`)
const source = (part: Partial<RouteSource>): RouteSource => ({
  id: 1,
  name: 'phone',
  takenAt: day('2026-10-01'),
  encrypted: false,
  locked: false,
  read: false,
  residueRead: false,
  ...part,
})
const FACTS: RouteFacts = {
  now: day('2026-11-20'),
  categories: ['messages'],
  lost: { from: day('2026-11-05'), to: day('2026-11-10') },
  device: 'in use',
  syncing: null,
  sources: [],
  matching: { binned: 0, leastDaysLeft: null, earlier: 0, rebuilt: 0, partial: 0 },
}
const before = source({ id: 1, takenAt: day('2026-10-20') })
const older = source({ id: 2, takenAt: day('2026-01-20') })
const within = source({ id: 4, takenAt: day('2026-11-07') })
const after = source({ id: 3, takenAt: day('2026-11-18') })

// Each rule: facts on which it speaks, what it says, and facts on which it is silent.
const CASES: [string, Partial<RouteFacts>, Partial<ReturnType<typeof routeOf>[number]>, Partial<RouteFacts>][] = [
  ['preserve', {}, { likelihood: 'likely' }, { device: 'put aside' }],
  [
    'found-in-bin',
    { matching: { ...FACTS.matching, binned: 3, leastDaysLeft: 4 } },
    { daysLeft: 4, do: expect.stringContaining('the 3 matching') },
    {},
  ],
  ['device-bin', {}, { daysLeft: 20, likelihood: 'likely' }, { device: 'erased' }],
  ['device-bin', { now: day('2026-12-15') }, { daysLeft: 0, likelihood: 'possible' }, { now: day('2027-02-01') }],
  ['device-bin', {}, {}, { lost: null }],
  ['cloud-bin', {}, { likelihood: 'possible' }, { syncing: false }],
  ['cloud-bin', { syncing: true }, { likelihood: 'likely' }, { now: day('2027-02-01') }],
  [
    'earlier-found',
    { matching: { ...FACTS.matching, earlier: 1 } },
    { do: expect.stringContaining('the one matching item that') },
    {},
  ],
  ['unlock-older', { sources: [{ ...before, locked: true }] }, { sourceId: 1 }, { sources: [before] }],
  [
    'unlock-older',
    { sources: [{ ...within, locked: true }] },
    { sourceId: 4 },
    { sources: [{ ...after, locked: true }] },
  ],
  [
    'newest-before-loss',
    { sources: [older, before, after] },
    { sourceId: 1 },
    { sources: [{ ...before, read: true }] },
  ],
  ['within-loss', { sources: [within] }, { sourceId: 4, likelihood: 'possible' }, { sources: [before, after] }],
  ['no-source-before-loss', { sources: [after] }, { likelihood: 'possible' }, { sources: [before] }],
  [
    'residue-after-loss',
    { sources: [before, after] },
    { sourceId: 3, likelihood: 'possible' },
    { sources: [{ ...after, residueRead: true }] },
  ],
  ['residue-after-loss', { sources: [after] }, {}, { sources: [after], categories: ['photos'] }],
  ['rebuilt-found', { matching: { ...FACTS.matching, rebuilt: 2, partial: 1 } }, {}, {}],
  ['read-device', { device: 'locked' }, { likelihood: 'possible' }, { device: 'in use' }],
  ['read-device', { device: 'does not start' }, { cost: expect.stringContaining('risk') }, { device: 'erased' }],
  ['media-cannot-be-rebuilt', { categories: ['photos'] }, { likelihood: 'possible' }, { categories: ['messages'] }],
  ['erased', { device: 'erased' }, { likelihood: 'none' }, {}],
  ['full-restore-last', { sources: [before] }, { sourceId: 1 }, { sources: [after] }],
]

describe('the route', () => {
  it.each(CASES)('%s speaks where it should, and is silent otherwise', (rule, facts, expected, silent) => {
    const steps = (part: Partial<RouteFacts>) => routeOf({ ...FACTS, ...part }).filter((one) => one.rule === rule)
    expect(steps(facts)[0]).toMatchObject(expected)
    expect(steps(silent)).toEqual([])
  })

  it('tests every rule', () => {
    expect(new Set(CASES.map(([rule]) => rule))).toEqual(new Set(ROUTE_RULES.map(({ id }) => id)))
  })

  it('puts what runs out first, and a full restore last', () => {
    const order = routeOf({ ...FACTS, sources: [before, after] }).map(({ rule }) => rule)
    expect(order).toEqual([
      'preserve',
      'device-bin',
      'cloud-bin',
      'newest-before-loss',
      'residue-after-loss',
      'full-restore-last',
    ])
  })
})

describe('the loss window', () => {
  const seen = (condition: 'live' | 'rebuilt', sourceTakenAt: number | null) => ({ condition, sourceTakenAt })
  it.each([
    ['live in the newest', [seen('live', 3)], [1, 2, 3], undefined],
    ['gone between two', [seen('live', 1), seen('live', 2)], [1, 2, 3], { from: 2, to: 3 }],
    ['gone, came back, gone', [seen('live', 1), seen('live', 3)], [1, 2, 3, 4], { from: 3, to: 4 }],
    ['only leftovers', [seen('rebuilt', 2)], [2, 3], { from: null, to: 2 }],
    ['no source of known date', [seen('live', null)], [], undefined],
  ])('%s', (_, sightings, dates, expected) => {
    expect(lossWindow(sightings, dates)).toEqual(expected)
    expect(lossWindow([...sightings].reverse(), [...dates].reverse())).toEqual(expected)
  })

  it('overlaps where a moment is shared; open ends reach for ever', () => {
    expect(overlaps({ from: 1, to: 3 }, { from: 3, to: 9 })).toBe(true)
    expect(overlaps({ from: 1, to: 2 }, { from: 3, to: null })).toBe(false)
    expect(overlaps({ from: null, to: 2 }, { from: null, to: 1 })).toBe(true)
  })
})

describe('the match with the brief', () => {
  const sought: Sought = { categories: ['messages'], words: ['stage'], people: ['bram'], lost: { from: 5, to: 9 } }
  const found = {
    category: 'messages' as const,
    standing: 'earlier' as const,
    title: 'Bram Okafor',
    text: 'The folding STAGE is 3 m',
    fields: {},
    window: { from: 6, to: 7 },
  }
  it('counts what the brief names, each with its reason', () => {
    expect(matchOf(sought, found)).toEqual({ score: 100, reasons: ['lost', 'category', 'words', 'people', 'window'] })
    expect(matchOf(sought, { ...found, text: 'nothing', title: 'Ilse' }).score).toBeLessThan(MATCHES_FROM)
    expect(matchOf(sought, { ...found, standing: 'kept', window: undefined }).reasons).toEqual([
      'category',
      'words',
      'people',
    ])
    expect(matchOf({ ...sought, words: [], people: [], lost: null }, found).score).toBe(100)
  })

  it('leads to an answer', () => {
    expect(answerOf({ whole: 2, partial: 1, unread: false }).answer).toBe('found')
    expect(answerOf({ whole: 0, partial: 1, unread: true })).toMatchObject({
      answer: 'found in part',
      why: expect.stringContaining('Not every source'),
    })
    expect(answerOf({ whole: 0, partial: 0, unread: false }).answer).toBe('not found')
  })
})
