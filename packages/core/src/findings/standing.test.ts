import { describe, expect, it } from 'vitest'
import type { Condition } from '../categories/types.js'
import { isBetterCopy, standingOf } from './standing.js'

const seen = (condition: Condition, sourceTakenAt: number) => ({ condition, sourceTakenAt })

describe('standing', () => {
  it.each([
    ['live in the only source', [seen('live', 1)], 1, 'kept'],
    ['binned in the only source', [seen('binned', 1)], 1, 'binned'],
    ['rebuilt in the only source', [seen('rebuilt', 1)], 1, 'rebuilt'],
    ['partial in the only source', [seen('partial', 1)], 1, 'partial'],
    ['live in an older source only', [seen('live', 1)], 2, 'earlier'],
    ['live before, binned now', [seen('live', 1), seen('binned', 2)], 2, 'binned'],
    ['live before, a leftover now', [seen('live', 1), seen('rebuilt', 2)], 2, 'earlier'],
    ['a leftover before, live now', [seen('partial', 1), seen('live', 2)], 2, 'kept'],
    ['leftovers only, one of them whole', [seen('partial', 2), seen('rebuilt', 1)], 2, 'rebuilt'],
  ] as const)('%s: %s', (_, sightings, newest, expected) => {
    expect(standingOf(sightings, newest)).toBe(expected)
    expect(standingOf([...sightings].reverse(), newest)).toBe(expected)
  })

  it('prefers the whole copy, then the newer one', () => {
    expect(isBetterCopy(seen('live', 1), seen('rebuilt', 2))).toBe(true)
    expect(isBetterCopy(seen('live', 2), seen('live', 1))).toBe(true)
    expect(isBetterCopy(seen('partial', 9), seen('rebuilt', 1))).toBe(false)
  })
})
