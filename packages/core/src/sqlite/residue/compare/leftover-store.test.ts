import { describe, expect, it } from 'vitest'
import { NO_TABLE } from '../evidence/unknown.js'
import type { Leftover } from './leftover.js'
import { LeftoverStore } from './leftover-store.js'

const leftover = (change: Partial<Leftover>): Leftover => ({
  table: NO_TABLE,
  named: true,
  gone: false,
  mayBeEntry: false,
  candidates: [],
  rowid: null,
  values: [],
  whole: true,
  place: { kind: 'gap', page: 3, offset: 8192.0 },
  confidence: 0.83,
  reasons: ['its record header is whole'],
  ...change,
})

describe('leftovers that wait', () => {
  it('come back as they were, whatever their values are', () => {
    const all = [
      leftover({
        values: [null, undefined, 0, -1.5, 2n ** 62n, '', 'é漢😀', new Uint8Array([0, 255]), new Uint8Array()],
      }),
      leftover({ rowid: 5, mayBeEntry: true, whole: false, gone: true, named: false, candidates: ['message', 'call'] }),
      leftover({ rowid: -(2n ** 60n), place: { kind: 'wal', page: 2 ** 32 - 2, offset: 2 ** 45 }, reasons: [] }),
      // Longer than what is taken at once.
      leftover({ values: ['x'.repeat(3_000_000), 7] }),
      leftover({ values: Array.from({ length: 2000 }, (_, i) => i), confidence: 1 }),
    ]
    const store = new LeftoverStore(NO_TABLE)
    for (const one of all) expect(store.add(one)).toBeGreaterThan(30)
    expect(store.count).toBe(all.length)
    for (const [id, one] of all.entries()) expect(store.at(id)).toEqual(one)
  })

  it('keeps every hundredth of confidence', () => {
    const store = new LeftoverStore(NO_TABLE)
    for (let hundredths = 0; hundredths <= 100; hundredths++)
      store.add(leftover({ confidence: Math.round(hundredths) / 100 }))
    for (let id = 0; id <= 100; id++) expect(store.at(id).confidence).toBe(id / 100)
  })
})
