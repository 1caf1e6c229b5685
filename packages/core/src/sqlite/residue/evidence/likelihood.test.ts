import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { likelihood } from './likelihood.js'
import { type Profile, profileOf } from './profile.js'
import { unknownTable } from './unknown.js'

const TWO_BYTES = 2

/** A column of so many whole numbers between two, of which a share is at least the one before. */
function taught(numbers: number, low: number, high: number, rising: number): Profile {
  const profile = profileOf(unknownTable(1, false), false)
  const range = profile.ranges[0]
  if (!range) throw new Error('a range for the column')
  Object.assign(range, { numbers, low, high, rises: Math.round(rising * numbers) })
  range.kinds.set([numbers], TWO_BYTES)
  return { ...profile, fitted: true }
}

function bitsOf(profile: Profile, value: number): number {
  const bytes = Buffer.alloc(2)
  bytes.writeInt16BE(value)
  return likelihood(profile, 0, bytes, 0, TWO_BYTES, 'utf8') ?? Number.NaN
}

const columns = fc.record({
  numbers: fc.integer({ min: 8, max: 400 }),
  low: fc.integer({ min: 200, max: 2000 }),
  span: fc.integer({ min: 40, max: 9000 }),
  rising: fc.constantFrom(0.5, 1),
})

describe('how likely a whole number is', () => {
  it('is the less the further it lies beyond all live ones', () => {
    fc.assert(
      fc.property(columns, fc.integer({ min: 1, max: 5000 }), ({ numbers, low, span, rising }, step) => {
        const profile = taught(numbers, low, low + span, rising)
        const inside = bitsOf(profile, low + Math.floor(span / 2))
        const near = bitsOf(profile, low + span + step)
        const far = bitsOf(profile, low + span + 3 * step)
        expect(near).toBeGreaterThan(far)
        expect(inside).toBeGreaterThan(far)
      }),
    )
  })

  it('sums up to no more than one over all numbers', () => {
    fc.assert(
      fc.property(columns, ({ numbers, low, span, rising }) => {
        const profile = taught(numbers, low, low + span, rising)
        let sum = 0
        // What fits into one byte is stored in one.
        for (let value = 128; value < 32_768; value++) sum += 2 ** bitsOf(profile, value)
        for (let value = -32_768; value < -128; value++) sum += 2 ** bitsOf(profile, value)
        expect(sum).toBeLessThan(1.05)
        expect(sum).toBeGreaterThan(0.3)
      }),
      { numRuns: 12 },
    )
  })

  it('falls off slower where the column counts up: the newest rows are the ones that went', () => {
    const counting = bitsOf(taught(100, 1000, 2000, 1), 6000)
    const scattered = bitsOf(taught(100, 1000, 2000, 0.5), 6000)
    expect(counting - scattered).toBeGreaterThan(5)
  })
})
