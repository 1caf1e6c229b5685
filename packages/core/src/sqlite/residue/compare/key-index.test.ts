import { describe, expect, it } from 'vitest'
import { KeyIndex } from './key-index.js'

const idsOf = (index: KeyIndex, key: number) => {
  const ids: number[] = []
  for (let entry = index.first(key); entry >= 0; entry = index.next(entry)) ids.push(index.id(entry))
  return ids.sort((a, b) => a - b)
}

describe('an index of fingerprints', () => {
  it('holds what a Map of lists holds, however many there are', () => {
    const index = new KeyIndex()
    const map = new Map<number, number[]>()
    let state = 1
    for (let id = 0; id < 40_000; id++) {
      state = (state * 48_271) % 2 ** 31
      const key = (state % 9000) * 2 ** 30 + (state % 3)
      index.add(key, id)
      const known = map.get(key)
      if (known) known.push(id)
      else map.set(key, [id])
    }
    expect(index.size).toBe(40_000)
    const wrong = [...map].filter(([key, ids]) => idsOf(index, key).join() !== ids.join())
    expect(wrong).toEqual([])
    expect(index.first(0.5)).toBe(-1)
  })

  it('forgets what too many share, tells each of them, and finds what wanted the same place', () => {
    const index = new KeyIndex()
    const told: number[] = []
    for (const [id, key] of [7, 7, 7, 7 + 2 ** 10, 7 + 2 ** 11, 7 + 2 ** 11].entries()) index.add(key, id)
    index.forgetShared(2, (id) => told.push(id))
    expect(told.sort()).toEqual([0, 1, 2])
    expect([7, 7 + 2 ** 10, 7 + 2 ** 11].map((key) => idsOf(index, key))).toEqual([[], [3], [4, 5]])
  })
})
