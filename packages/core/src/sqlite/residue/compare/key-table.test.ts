import { describe, expect, it } from 'vitest'
import { KeyTable } from './key-table.js'

describe('a table of fingerprints', () => {
  it('holds what a Set of the same numbers holds, however many there are', () => {
    const table = new KeyTable()
    const set = new Set<number>()
    let key = 1
    for (let i = 0; i < 60_000; i++) {
      key = (key * 48_271) % 2 ** 31
      const wide = key * 2 ** 21 + (i % 7)
      expect(table.add(wide)).toBe(!set.has(wide))
      set.add(wide)
    }
    expect(table.size).toBe(set.size)
    for (const one of set) if (!table.has(one)) expect.fail(`${one} is missing`)
    expect(table.has(0)).toBe(false)
    expect(table.has(5)).toBe(false)
  })

  it('holds 0 as well, and keys that want the same place', () => {
    const table = new KeyTable()
    for (const key of [0, 4096, 8192, 2 ** 52, 2 ** 52 + 4096]) expect(table.add(key)).toBe(true)
    for (const key of [0, 4096, 8192, 2 ** 52, 2 ** 52 + 4096]) expect(table.add(key)).toBe(false)
    expect(table.has(12_288)).toBe(false)
  })
})
