import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayWords, rowsOf, shelvesOf } from './GalleryView.js'
import { addressOf, routeOf } from './route.js'

describe('an address inside of a package', () => {
  it.each([
    ['', { view: 'start' }],
    ['#/', { view: 'start' }],
    ['#/kind/photos', { view: 'kind', kind: 'photos' }],
    ['#/item/12', { view: 'item', number: 12 }],
    ['#/item/-1', { view: 'start' }],
    ['#/item/x', { view: 'start' }],
    ['#/person/3', { view: 'person', index: 3 }],
    ['#/conversation/4', { view: 'conversation', index: 4, at: null }],
    ['#/conversation/4/170', { view: 'conversation', index: 4, at: 170 }],
    ['#/search/a%20b', { view: 'search', words: 'a b' }],
    ['#/search/100%', { view: 'search', words: '100%' }],
    ['#/people', { view: 'people' }],
    ['#/nothing/of/this', { view: 'start' }],
  ])('%s', (hash, route) => expect(routeOf(hash)).toEqual(route))

  it('brings every search back that it was made of', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1 }), (words) => {
        expect(routeOf(addressOf('search', words))).toEqual({ view: 'search', words })
      }),
    )
  })
})

describe('a gallery', () => {
  it('stands by day, or by month where days hold little', () => {
    const days: [string, number][] = [
      ['2026-11-14', 0],
      ['2026-11-02', 1],
      ['2026-10-30', 2],
      ['', 3],
    ]
    expect(shelvesOf(days, 100)).toBe(days)
    expect(shelvesOf(days, 4)).toEqual([
      ['2026-11', 0],
      ['2026-10', 2],
      ['', 3],
    ])
    expect(['2026-11', '2026-11-02', ''].map(dayWords)).toEqual(['November 2026', '2 November 2026', 'No date'])
  })

  it('has every picture in one row, and no row longer than it is wide', () => {
    const counts = fc.array(fc.integer({ min: 1, max: 30 }), { maxLength: 12 })
    fc.assert(
      fc.property(counts, fc.integer({ min: 1, max: 9 }), fc.nat(50), (list, columns, first) => {
        let at = first
        const days = list.map((count, i): [string, number] => {
          const from = at
          at += count
          return [`day ${i}`, from]
        })
        const rows = rowsOf(days, at, columns)
        const tiles = rows.flatMap((row) => ('from' in row ? [row] : []))
        expect(rows.length - tiles.length).toBe(days.length)
        expect(tiles.every(({ from, to }) => to > from && to - from <= columns)).toBe(true)
        expect(tiles.flatMap(({ from, to }) => Array.from({ length: to - from }, (_, i) => from + i))).toEqual(
          Array.from({ length: at - first }, (_, i) => first + i),
        )
      }),
    )
  })
})
