import { describe, expect, it } from 'vitest'
import type { ContentState } from '../categories/content-states.js'
import type { Condition } from '../categories/types.js'
import { claimOf, isLost } from './standing.js'
import type { CategoryState, SeenAs } from './states.js'

/** The device of the brief; `tablet` is another one, `account` the owner's account. */
const PHONE = 'phone'

/** A state by its date; its word counts unless it is said that it does not. */
const state = (sourceId: number, at: number | null, part: Partial<CategoryState> = {}): CategoryState => ({
  sourceId,
  device: PHONE,
  at,
  silent: new Set(['']),
  ...part,
})
const dumb = { silent: new Set<string>() }
const seen = (sourceId: number, condition: Condition, content: ContentState = 'none'): SeenAs => ({
  sourceId,
  condition,
  content,
})

const ONE = [state(1, 10)]
const TWO = [state(1, 10), state(2, 20)]
const THREE = [...TWO, state(3, 30)]

/** Every order of a few things: claims must not depend on it (rule 9). */
function* orders<T>(list: readonly T[]): Generator<T[]> {
  if (list.length < 2) return yield [...list]
  for (const [index, first] of list.entries())
    for (const rest of orders([...list.slice(0, index), ...list.slice(index + 1)])) yield [first, ...rest]
}

// Worked out by hand from docs/truth.md: what is seen, the states, and the standing with its window.
const CASES: [string, SeenAs[], CategoryState[], string, { from: number | null; to: number | null } | undefined][] = [
  ['live in the only state', [seen(1, 'live')], ONE, 'kept', undefined],
  ['binned in the only state', [seen(1, 'binned')], ONE, 'binned', { from: null, to: 10 }],
  ['rebuilt in the only state', [seen(1, 'rebuilt')], ONE, 'rebuilt', { from: null, to: 10 }],
  ['in part in the only state', [seen(1, 'partial')], ONE, 'partial', { from: null, to: 10 }],
  ['live before, not shown now', [seen(1, 'live')], TWO, 'earlier', { from: 10, to: 20 }],
  ['live before, binned now', [seen(1, 'live'), seen(2, 'binned')], TWO, 'binned', { from: 10, to: 20 }],
  ['live before, a leftover now', [seen(1, 'live'), seen(2, 'rebuilt')], TWO, 'earlier', { from: 10, to: 20 }],
  ['a leftover before, live now', [seen(1, 'partial'), seen(2, 'live')], TWO, 'kept', undefined],
  ['leftovers only, one whole', [seen(2, 'partial'), seen(1, 'rebuilt')], TWO, 'rebuilt', { from: null, to: 10 }],
  ['gone, and back again', [seen(1, 'live'), seen(3, 'live')], THREE, 'kept', undefined],
  ['binned once, then gone', [seen(1, 'live'), seen(2, 'binned')], THREE, 'earlier', { from: 10, to: 20 }],
  // Rule 8: an old state from before it was made says nothing of what is only left over later.
  ['made after the first state', [seen(2, 'rebuilt')], TWO, 'rebuilt', { from: null, to: 20 }],
  // Rule 6: silence of a store that was absent, damaged, or not read to its end.
  ['not shown by a state without a word', [seen(1, 'live')], [state(1, 10), state(2, 20, dumb)], 'kept', undefined],
  ['shown by a state without a word', [seen(2, 'live')], [state(1, 10), state(2, 20, dumb)], 'kept', undefined],
  ['a leftover of a damaged store', [seen(1, 'rebuilt')], [state(1, 10, dumb)], 'rebuilt', undefined],
  [
    'gone by the next state that has a word',
    [seen(1, 'live')],
    [state(1, 10), state(2, 20, dumb), state(3, 30)],
    'earlier',
    { from: 10, to: 30 },
  ],
  // Rule 2: another device never says that an item is gone from this one.
  [
    'live here, an older tablet',
    [seen(1, 'live')],
    [state(1, 10), state(2, 5, { device: 'tablet' })],
    'kept',
    undefined,
  ],
  [
    'live here, a newer tablet',
    [seen(1, 'live')],
    [state(1, 10), state(2, 50, { device: 'tablet' })],
    'kept',
    undefined,
  ],
  ['only on the tablet', [seen(2, 'live')], [state(1, 10), state(2, 50, { device: 'tablet' })], 'elsewhere', undefined],
  [
    'a leftover on the tablet',
    [seen(2, 'rebuilt')],
    [state(1, 10), state(2, 5, { device: 'tablet' })],
    'elsewhere',
    undefined,
  ],
  // Rule 3: the account's silence says nothing of the device.
  [
    'live here, not in the account',
    [seen(1, 'live')],
    [state(1, 10), state(2, 50, { device: 'account' })],
    'kept',
    undefined,
  ],
  [
    'only in the account',
    [seen(2, 'binned')],
    [state(1, 10), state(2, 50, { device: 'account' })],
    'elsewhere',
    undefined,
  ],
  // Rule 5: a backup in two folders is one state.
  ['the same backup twice', [seen(1, 'live'), seen(2, 'live')], [state(1, 10), state(2, 10)], 'kept', undefined],
  ['the same backup, of which one copy is damaged', [seen(1, 'live')], [state(1, 10), state(2, 10)], 'kept', undefined],
  // A date that is not known is older than all that are.
  ['in a state without a date', [seen(1, 'live')], [state(1, null), state(2, 20)], 'earlier', { from: null, to: 20 }],
]

describe('what may be claimed of an item', () => {
  it.each(CASES)('%s', (_, sightings, states, standing, window) => {
    for (const inOrder of orders(sightings))
      for (const statesInOrder of orders(states))
        expect(claimOf(inOrder, statesInOrder, PHONE, '')).toMatchObject({ standing, window })
  })

  it('follows the store that would hold the item', () => {
    const states = [state(1, 10, { silent: new Set(['a', 'b']) }), state(2, 20, { silent: new Set(['a']) })]
    expect(claimOf([seen(1, 'live')], states, PHONE, 'a').standing).toBe('earlier')
    expect(claimOf([seen(1, 'live')], states, PHONE, 'b').standing).toBe('kept')
  })

  it('counts the days of the newest bin it is in', () => {
    const sightings = [seen(1, 'binned'), seen(2, 'binned'), seen(3, 'binned')]
    const states = [...TWO, state(3, 50, { device: 'account' })]
    expect(claimOf(sightings, states, PHONE, '').binned?.sourceId).toBe(2)
    expect(claimOf([seen(1, 'live'), seen(3, 'binned')], states, PHONE, '').binned).toBeUndefined()
    expect(claimOf([seen(3, 'binned')], states, PHONE, '').binned?.sourceId).toBe(3)
  })

  it('never calls lost what no state says is gone', () => {
    expect(isLost('rebuilt', undefined)).toBe(false)
    expect(isLost('rebuilt', { from: null, to: 10 })).toBe(true)
    expect([isLost('earlier', { from: 1, to: 2 }), isLost('binned', undefined)]).toEqual([true, true])
    expect([isLost('kept', undefined), isLost('elsewhere', undefined)]).toEqual([false, false])
  })
})

describe('the best copy', () => {
  const states = [...TWO, state(3, 30, { device: 'tablet' })]
  it.each<[string, SeenAs[], number]>([
    ['the newer of two', [seen(1, 'live'), seen(2, 'live')], 2],
    ['what is there, before what is newer', [seen(1, 'live', 'present'), seen(2, 'live', 'lost')], 1],
    ['what is there, before what is to come', [seen(1, 'live', 'present'), seen(2, 'live', 'awaited')], 1],
    ['what may come, before what is lost', [seen(1, 'live', 'gone'), seen(2, 'live', 'awaited')], 2],
    ['a whole one, before what is newer', [seen(1, 'live'), seen(2, 'partial')], 1],
    ['a live one, before one from leftovers', [seen(1, 'live'), seen(2, 'rebuilt')], 1],
    ['one in part that is there, before a whole one that is not', [seen(1, 'live', 'absent'), seen(2, 'partial')], 2],
    ['that of the device of the brief', [seen(1, 'live'), seen(3, 'live')], 1],
    ['that of another device, where only it has the content', [seen(1, 'live', 'lost'), seen(3, 'live', 'present')], 3],
  ])('is %s', (_, sightings, best) => {
    for (const inOrder of orders(sightings)) expect(claimOf(inOrder, states, PHONE, '').best.sourceId).toBe(best)
  })
})
