import { describe, expect, test } from 'vitest'
import { type CategoryState, momentsOf, type SeenAs } from './states.js'

const PHONE = 'phone'
const read = (sourceId: number, at: number | null, part: Partial<CategoryState> = {}): CategoryState => ({
  sourceId,
  at,
  device: PHONE,
  silent: new Set(['']),
  ...part,
})
const seen = (sourceId: number, condition: SeenAs['condition']): SeenAs => ({ sourceId, condition, content: 'none' })

describe('what the states of a device say of an item', () => {
  test('comes with the newest first, and what has no date last', () => {
    const moments = momentsOf([], [read(1, null), read(2, 10), read(3, 20)], PHONE, '')
    expect(moments.map(({ at }) => at)).toEqual([20, 10, Number.NEGATIVE_INFINITY])
  })

  test('leaves out what another device shows', () => {
    const states = [read(1, 10), read(2, 20, { device: 'tablet' })]
    expect(momentsOf([seen(2, 'live')], states, PHONE, '')).toEqual([
      { at: 10, live: false, binned: false, leftover: false, silent: true },
    ])
  })

  test('of two copies of one date is one state: what either shows is there', () => {
    const states = [read(1, 10), read(2, 10)]
    expect(momentsOf([seen(2, 'live')], states, PHONE, '')).toEqual([
      { at: 10, live: true, binned: false, leftover: false, silent: false },
    ])
  })

  test('counts silence only about the store that was read', () => {
    const states = [read(1, 10, { silent: new Set(['one']) })]
    expect(momentsOf([], states, PHONE, 'one').map(({ silent }) => silent)).toEqual([true])
    expect(momentsOf([], states, PHONE, 'another').map(({ silent }) => silent)).toEqual([false])
  })

  test('takes leftovers for no sign of life: the silence beside them counts', () => {
    expect(momentsOf([seen(1, 'partial')], [read(1, 10)], PHONE, '')).toEqual([
      { at: 10, live: false, binned: false, leftover: true, silent: true },
    ])
  })

  test('in a bin is not silence', () => {
    expect(momentsOf([seen(1, 'binned')], [read(1, 10)], PHONE, '')[0]).toMatchObject({ binned: true, silent: false })
  })
})
