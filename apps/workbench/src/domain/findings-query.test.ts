import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type FindingsQuery, fromAddress, SORT_ORDERS, TILES, toAddress } from './findings-query.js'
import { LAYOUTS } from './layouts.js'

describe('the state of Findings in its address', () => {
  it('comes back as it was', () => {
    const queries = fc.record<FindingsQuery>({
      category: fc.constantFrom('photos', 'messages'),
      standings: fc.uniqueArray(fc.constantFrom('kept', 'binned', 'earlier', 'rebuilt', 'partial')),
      words: fc.string(),
      conversation: fc.option(fc.string()),
      layout: fc.constantFrom(null, ...LAYOUTS),
      order: fc.constantFrom(...SORT_ORDERS),
      month: fc.constantFrom(null, '2026-05'),
      fromDay: fc.constantFrom(null, '2026-01-01'),
      toDay: fc.constantFrom(null, '2026-12-31'),
      zone: fc.constantFrom('UTC', 'Europe/Lisbon'),
      matching: fc.boolean(),
      inTray: fc.boolean(),
      compared: fc.constantFrom(null, '3,4,wiped', '12,1,comes-back'),
      tiles: fc.constantFrom(...TILES),
      folding: fc.boolean(),
      finding: fc.option(fc.integer({ min: 1 })),
    })
    fc.assert(
      fc.property(queries, (query) => {
        expect(fromAddress(toAddress(query), query.zone)).toEqual(query)
      }),
    )
  })

  it('passes over what makes no sense', () => {
    expect(
      fromAddress(
        '?category=secrets&standings=gone,kept&layout=spiral&order=random&month=2026-13&tiles=huge&folding=perhaps',
      ),
    ).toEqual({
      category: 'photos',
      standings: ['kept'],
      words: '',
      conversation: null,
      layout: null,
      order: 'newest',
      month: null,
      fromDay: null,
      toDay: null,
      zone: 'UTC',
      matching: false,
      inTray: false,
      compared: null,
      tiles: 'medium',
      folding: false,
      finding: null,
    })
  })
})
