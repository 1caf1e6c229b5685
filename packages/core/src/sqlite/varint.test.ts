import { describe, expect, it } from 'vitest'
import { endsVarint, readVarint, varint64 } from './varint.js'

// Values and bytes as in "Database File Format", section 1.6, worked by hand from its rule.
const CASES: [string, bigint][] = [
  ['7f', 127n],
  ['8100', 128n],
  ['822c', 300n],
  ['ff7f', 16383n],
  ['818000', 16384n],
  ['9080808000', 2n ** 32n],
  ['ffffffffffffff7f', 2n ** 56n - 1n],
  ['80c080808080808000', 2n ** 56n],
  ['bfffffffffffffffff', 2n ** 63n - 1n],
  ['ffffffffffffffffff', -1n],
]

describe('varints', () => {
  it.each(CASES)('reads %s exactly', (hex, value) => {
    const bytes = Buffer.from(hex, 'hex')
    expect(varint64(bytes, 0)).toEqual({
      value: Number.isSafeInteger(Number(value)) ? Number(value) : value,
      size: bytes.length,
    })
    const fast = { value: 0, size: 0 }
    expect(readVarint(bytes, 0, bytes.length, fast)).toBe(true)
    expect(fast).toEqual({ value: Number(value), size: bytes.length })
  })

  it.each(CASES.filter(([hex]) => hex.length < 18))('knows every end of %s', (hex) => {
    const bytes = Buffer.from(`${hex}05`, 'hex')
    const size = hex.length / 2
    for (let from = 0; from < size; from++) {
      expect(endsVarint(bytes, from, size, size)).toBe(true)
      expect(endsVarint(bytes, from, size + 1, size + 1)).toBe(false)
      if (from > 0) expect(endsVarint(bytes, 0, from, from)).toBe(false)
    }
  })

  it('takes any ninth byte for the last one', () => {
    const bytes = Buffer.from('80808080808080ffff', 'hex')
    for (const last of [0, 0x7f, 0x80, 0xff]) {
      bytes[8] = last
      expect(endsVarint(bytes, 3, 9, 9)).toBe(true)
      expect(endsVarint(bytes, 3, 9, 8)).toBe(last < 0x80)
    }
  })

  it.each(['', '80', 'ffffffffffffffff'])('refuses "%s", which ends early', (hex) => {
    const bytes = Buffer.from(hex, 'hex')
    expect(readVarint(bytes, 0, bytes.length, { value: 0, size: 0 })).toBe(false)
    expect(() => varint64(bytes, 0)).toThrow('runs past')
  })
})
