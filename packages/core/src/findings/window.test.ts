import { describe, expect, test } from 'vitest'
import type { Moment } from './states.js'
import { lossWindow, overlaps } from './window.js'

const DAY = 86_400_000
const day = (n: number) => n * DAY

/** A date of a device; it says nothing of the item but what is given. */
const moment = (at: number, says: Partial<Moment> = {}): Moment => ({
  at: day(at),
  live: false,
  binned: false,
  leftover: false,
  silent: false,
  ...says,
})

describe('the loss window of an item', () => {
  test('starts when it was last seen live, and ends where the first newer silence counts', () => {
    const window = lossWindow([
      moment(40, { silent: true }),
      moment(30, { silent: true }),
      moment(20, { live: true }),
      moment(10, { live: true }),
    ])
    expect(window).toEqual({ from: day(20), to: day(30) })
  })

  test('ends where it is seen in a bin, though it is gone from there later', () => {
    const window = lossWindow([moment(40, { silent: true }), moment(30, { binned: true }), moment(20, { live: true })])
    expect(window).toEqual({ from: day(20), to: day(30) })
  })

  test('does not end in a state that could not be read to its end', () => {
    const window = lossWindow([moment(40, { silent: true }), moment(30), moment(20, { live: true })])
    expect(window).toEqual({ from: day(20), to: day(40) })
  })

  test('is not there while the newest state that says anything has the item live', () => {
    expect(lossWindow([moment(30, { live: true }), moment(20, { silent: true })])).toBeUndefined()
    expect(lossWindow([moment(40), moment(30, { live: true })])).toBeUndefined()
  })

  test('of what was never seen live starts nowhere, and ends no earlier than the item is known to have been', () => {
    // The silence of day 10 is from before the item was made.
    const window = lossWindow([moment(30, { leftover: true, silent: true }), moment(10, { silent: true })])
    expect(window).toEqual({ from: null, to: day(30) })
    expect(lossWindow([moment(30, { binned: true }), moment(10, { silent: true })])).toEqual({
      from: null,
      to: day(30),
    })
  })

  test('of leftovers alone, in a state whose silence does not count, is not known', () => {
    expect(lossWindow([moment(30, { leftover: true })])).toBeUndefined()
  })

  test('of a loss that a state without a date shows is not known', () => {
    const undated = { ...moment(0, { binned: true }), at: Number.NEGATIVE_INFINITY }
    expect(lossWindow([undated])).toBeUndefined()
  })

  test('has an open start where the last state with the item live has no date', () => {
    const undated = { ...moment(0, { live: true }), at: Number.NEGATIVE_INFINITY }
    expect(lossWindow([moment(30, { silent: true }), undated])).toEqual({ from: null, to: day(30) })
  })
})

describe('two windows', () => {
  test('overlap where they share a moment, be it one', () => {
    expect(overlaps({ from: day(1), to: day(3) }, { from: day(3), to: day(5) })).toBe(true)
    expect(overlaps({ from: day(1), to: day(2) }, { from: day(3), to: day(5) })).toBe(false)
  })

  test('with open ends reach for ever', () => {
    expect(overlaps({ from: null, to: day(2) }, { from: null, to: day(1) })).toBe(true)
    expect(overlaps({ from: day(2), to: null }, { from: null, to: day(1) })).toBe(false)
  })
})
