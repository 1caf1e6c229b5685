import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { clustered } from './clusters.js'

const place = (x: number, y: number) => ({ x, y })

describe('points on a map', () => {
  it('are each in one cluster, which stands among them', () => {
    const points = fc.array(fc.tuple(fc.integer({ min: -50, max: 950 }), fc.integer({ min: -50, max: 500 })))
    fc.assert(
      fc.property(points, (list) => {
        const clusters = clustered(
          list.map(([x, y]) => place(x, y)),
          900,
          460,
        )
        const inside = list.filter(([x, y]) => x >= 0 && y >= 0 && x <= 900 && y <= 460)
        expect(clusters.reduce((sum, cluster) => sum + cluster.points.length, 0)).toBe(inside.length)
        for (const { x, y, points: own } of clusters) {
          expect(Math.max(...own.map((point) => Math.abs(point.x - x)))).toBeLessThan(27)
          expect(Math.max(...own.map((point) => Math.abs(point.y - y)))).toBeLessThan(27)
        }
      }),
    )
  })

  it('that lie together are one', () => {
    expect(
      clustered([place(10, 10), place(12, 11), place(400, 200)], 900, 460).map((one) => one.points.length),
    ).toEqual([2, 1])
  })
})
