import { describe, expect, it } from 'vitest'
import { fromCocoa, fromUnix } from './time.js'

// Worked examples of the reference, computed with a general date library.
describe('times', () => {
  it.each([
    [21692800, '2001-09-09T01:46:40.000Z'],
    [604672496, '2020-02-29T12:34:56.000Z'],
    [604672496000000000n, '2020-02-29T12:34:56.000Z'],
    [730902896789000000n, '2024-02-29T12:34:56.789Z'],
    [730902896.789, '2024-02-29T12:34:56.789Z'],
  ])('%s since 2001 is %s', (value, iso) => {
    expect(fromCocoa(value)?.toISOString()).toBe(iso)
  })

  it.each([0, -1, null, undefined, '604672496', -63114076800, Number.NaN, 9e30, 0n, -5n])(
    '%s since 2001 is no date',
    (value) => {
      expect(fromCocoa(value)).toBeNull()
    },
  )

  it('reads seconds since 1970', () => {
    expect(fromUnix(1000000000)?.toISOString()).toBe('2001-09-09T01:46:40.000Z')
    expect(fromUnix(0)).toBeNull()
  })
})
