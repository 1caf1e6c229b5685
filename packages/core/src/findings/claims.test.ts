import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { CONTENT_STATES } from '../categories/content-states.js'
import { claimOf, isLost } from './standing.js'
import type { CategoryState, SeenAs } from './states.js'

// Properties that every claim must have, whatever the sources show (docs/truth.md, rules 2 and 5 to 10).

const PHONE = 'phone'
const CONDITIONS = ['live', 'binned', 'rebuilt', 'partial'] as const

/** States of some devices, and what they show of one item; at least one state shows it. */
const cases = fc
  .array(
    fc.record({
      device: fc.constantFrom(PHONE, PHONE, 'tablet', 'account'),
      at: fc.option(fc.integer({ min: 1, max: 9 }), { freq: 8 }),
      counts: fc.boolean(),
      condition: fc.option(fc.constantFrom(...CONDITIONS)),
      content: fc.constantFrom(...CONTENT_STATES),
    }),
    { minLength: 1, maxLength: 6 },
  )
  .map((list) => {
    const states = list.map(
      ({ device, at, counts }, index): CategoryState => ({
        sourceId: index + 1,
        device,
        at,
        silent: new Set(counts && device !== 'account' ? [''] : []),
      }),
    )
    const seen = list.flatMap(({ condition, content }, index): SeenAs[] =>
      condition === null ? [] : [{ sourceId: index + 1, condition, content }],
    )
    return { states, seen }
  })
  .filter(({ seen }) => seen.length > 0)

/** Many cases: a fault that shows in one of some thousands is found in this run. */
const holds = <T>(property: fc.IProperty<T>) => fc.assert(property, { numRuns: 3000 })

const claim = (seen: readonly SeenAs[], states: readonly CategoryState[]) => claimOf(seen, states, PHONE, '')
/** Standing and window of a claim, without its best copy: a backup and its copy are equally good. */
const told = (seen: readonly SeenAs[], states: readonly CategoryState[]) => {
  const { standing, window } = claim(seen, states)
  return { standing, window }
}

/** The same list in an order that a number decides. */
function shuffled<T>(list: readonly T[], by: number): T[] {
  return list
    .map((one, index) => [((index + 1) * 7919 * by) % 104_729, one] as const)
    .sort(([a], [b]) => a - b)
    .map(([, one]) => one)
}

describe('a claim', () => {
  test('does not depend on the order of states and sightings', () => {
    holds(
      fc.property(cases, fc.integer({ min: 1, max: 100_000 }), ({ states, seen }, by) => {
        expect(claim(shuffled(seen, by), shuffled(states, by))).toEqual(claim(seen, states))
      }),
    )
  })

  test('is not changed by a state of another device, or of the account, that does not show the item', () => {
    holds(
      fc.property(
        cases,
        fc.constantFrom('tablet', 'account', 'somebody else'),
        fc.integer({ min: 0, max: 10 }),
        ({ states, seen }, device, at) => {
          const more: CategoryState = { sourceId: 99, device, at, silent: new Set(['']) }
          expect(claim(seen, [...states, more])).toEqual(claim(seen, states))
        },
      ),
    )
  })

  test('is not changed by a state whose silence does not count', () => {
    holds(
      fc.property(cases, fc.option(fc.integer({ min: 0, max: 10 })), ({ states, seen }, at) => {
        const more: CategoryState = { sourceId: 99, device: PHONE, at, silent: new Set(['another store']) }
        expect(claim(seen, [...states, more])).toEqual(claim(seen, states))
      }),
    )
  })

  test('is the same when a backup is added a second time from another folder', () => {
    holds(
      fc.property(cases, fc.nat(), ({ states, seen }, which) => {
        const original = states[which % states.length] as CategoryState
        const copy = { ...original, sourceId: 99 }
        const shown = seen.find(({ sourceId }) => sourceId === original.sourceId)
        const both = shown ? [...seen, { ...shown, sourceId: 99 }] : seen
        expect(told(both, [...states, copy])).toEqual(told(seen, states))
      }),
    )
  })

  test('says elsewhere exactly where no state of the device shows anything of the item', () => {
    holds(
      fc.property(cases, ({ states, seen }) => {
        const here = seen.some(({ sourceId }) => states[sourceId - 1]?.device === PHONE)
        expect(claim(seen, states).standing === 'elsewhere').toBe(!here)
      }),
    )
  })

  test('says kept only where the newest state that says anything shows it live', () => {
    holds(
      fc.property(cases, ({ states, seen }) => {
        const { standing } = claim(seen, states)
        const conditionIn = (state: CategoryState) => seen.find((one) => one.sourceId === state.sourceId)?.condition
        const says = states.filter(
          (state) =>
            state.device === PHONE && (['live', 'binned'].includes(conditionIn(state) ?? '') || state.silent.size > 0),
        )
        const newest = Math.max(...says.map(({ at }) => at ?? Number.NEGATIVE_INFINITY))
        const live = says.some(
          (state) => (state.at ?? Number.NEGATIVE_INFINITY) === newest && conditionIn(state) === 'live',
        )
        expect(standing === 'kept').toBe(live)
      }),
    )
  })

  test('has a window between dates of states of the device, the earlier one showing it live', () => {
    holds(
      fc.property(cases, ({ states, seen }) => {
        const { window, standing } = claim(seen, states)
        if (!window) return
        expect(standing).not.toBe('elsewhere')
        const mine = states.filter(({ device }) => device === PHONE)
        if (window.from !== null) {
          const there = mine.filter(({ at }) => at === window.from).map(({ sourceId }) => sourceId)
          expect(seen.some(({ sourceId, condition }) => there.includes(sourceId) && condition === 'live')).toBe(true)
        }
        if (window.to !== null) expect(mine.map(({ at }) => at)).toContain(window.to)
        if (window.from !== null && window.to !== null) expect(window.from).toBeLessThan(window.to)
      }),
    )
  })

  test('without a state whose silence counts, or a bin, calls nothing lost', () => {
    holds(
      fc.property(cases, ({ states, seen }) => {
        const dumb = states.map((state) => ({ ...state, silent: new Set<string>() }))
        const { standing, window } = claim(
          seen
            .filter(({ condition }) => condition !== 'binned')
            .concat({ sourceId: 1, condition: 'rebuilt', content: 'none' }),
          dumb,
        )
        expect(isLost(standing, window)).toBe(false)
      }),
    )
  })

  test('shows a copy whose content is there, wherever one is', () => {
    holds(
      fc.property(cases, ({ states, seen }) => {
        const had = ({ content }: SeenAs) => content === 'present' || content === 'none'
        expect(had(claim(seen, states).best)).toBe(seen.some(had))
      }),
    )
  })

  test('counts the days of a bin from the newest state that shows the item in one', () => {
    holds(
      fc.property(cases, ({ states, seen }) => {
        const { standing, binned } = claim(seen, states)
        if (standing !== 'binned') return
        const date = (one: SeenAs) => states[one.sourceId - 1]?.at ?? Number.NEGATIVE_INFINITY
        const dates = seen
          .filter((one) => one.condition === 'binned' && states[one.sourceId - 1]?.device === PHONE)
          .map(date)
        expect(binned && date(binned)).toBe(Math.max(...dates))
      }),
    )
  })
})
