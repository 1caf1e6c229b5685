import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isTooLong } from './impossible.js'

const SIZES = [0, 1, 2, 3, 4, 6, 8]

/** A whole number as a serial type stores it; undefined: it does not fit. */
function stored(value: bigint, type: number): Uint8Array | undefined {
  const size = SIZES[type] as number
  if (BigInt.asIntN(8 * size, value) !== value) return undefined
  const bytes = Buffer.alloc(8)
  bytes.writeBigInt64BE(value)
  return bytes.subarray(8 - size)
}

describe('a whole number ("Database File Format", section 2.1)', () => {
  it('is too long in every type but the shortest that it fits', () => {
    fc.assert(
      fc.property(fc.oneof(fc.bigInt(-300n, 300n), fc.bigInt(-(2n ** 63n), 2n ** 63n - 1n)), (value) => {
        const fitting = [1, 2, 3, 4, 5, 6].filter((type) => stored(value, type))
        const bare = value === 0n || value === 1n
        for (const type of fitting)
          expect(isTooLong(stored(value, type) as Uint8Array, 0, type, true)).toBe(bare || type !== fitting[0])
        // Before schema format 4 there were no types for 0 and 1.
        expect(isTooLong(stored(value, fitting[0] as number) as Uint8Array, 0, fitting[0] as number, false)).toBe(false)
      }),
    )
  })
})
