import { expect, it } from 'vitest'
import { rateOf } from './HandoverProgress.js'

it.each([
  [[], null],
  [[[0, 0]], null],
  [
    [
      [0, 0],
      [3000, 900],
    ],
    null,
  ],
  [
    [
      [0, 0],
      [5000, 5000],
    ],
    1000,
  ],
  [
    [
      [0, 500],
      [4000, 600],
      [10_000, 2500],
    ],
    200,
  ],
  // What stands still has no speed, and no end that could be told.
  [
    [
      [0, 700],
      [9000, 700],
    ],
    null,
  ],
] as [[number, number][], number | null][])('%j is a rate of %s', (samples, rate) => {
  expect(rateOf(samples.map(([at, bytes]) => ({ at, bytes })))).toBe(rate)
})
