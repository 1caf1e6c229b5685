import { expect, it } from 'vitest'
import { givenUpBy } from './thin.js'

const NOW = Date.UTC(2026, 11, 1, 12)
const DAY = 86_400_000
const copiesOf = (device: string, ages: readonly number[]) =>
  ages.map((age) => ({ device, age, takenAt: new Date(NOW - age * DAY) }))
const agesKept = (ages: readonly number[], rule = { all: 7, weekly: 60 }) => {
  const copies = copiesOf('a', ages)
  const gone = new Set(givenUpBy(copies, rule, NOW))
  return copies.filter((copy) => !gone.has(copy)).map(({ age }) => age)
}

it('keeps all of the last days, then the newest of each week, then the newest of each month', () => {
  const daily = Array.from({ length: 200 }, (_, age) => age)
  const kept = agesKept(daily)
  expect(kept.filter((age) => age <= 7)).toEqual([0, 1, 2, 3, 4, 5, 6, 7])
  // 2026-12-01 is a Tuesday: the Sundays before it are the last days of their weeks.
  expect(kept.filter((age) => age > 7 && age <= 60)).toEqual([9, 16, 23, 30, 37, 44, 51, 58])
  // Of what is older than 60 days: 1 October, and the last days of September to May.
  expect(kept.filter((age) => age > 60)).toEqual([61, 62, 92, 123, 154, 184])
})

it('never gives up the newest of a device, however old, and looks at each device by itself', () => {
  expect(agesKept([900, 901, 902])).toContain(900)
  const copies = [...copiesOf('a', [10]), ...copiesOf('b', [10, 10.1])]
  expect(givenUpBy(copies, { all: 7, weekly: 60 }, NOW).map(({ device, age }) => [device, age])).toEqual([['b', 10.1]])
})

it('gives up nothing more when it is used again on what it left', () => {
  const first = agesKept(Array.from({ length: 400 }, (_, i) => i * 0.7))
  expect(agesKept(first)).toEqual(first)
})
