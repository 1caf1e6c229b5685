import { describe, expect, it } from 'vitest'
import { scaleOf } from './pdfScale.js'

describe('a page of a document', () => {
  it('fills the room that it has, in the dots of the screen', () => {
    expect(scaleOf(420, 595, 336, 1)).toBeCloseTo(0.8)
    expect(scaleOf(420, 595, 336, 2)).toBeCloseTo(1.6)
  })

  it('is never drawn in more pixels than a screen has, whatever size it claims', () => {
    expect(scaleOf(10, 1_000_000, 336, 2) * 1_000_000).toBeCloseTo(4096)
    expect(scaleOf(14_400, 14_400, 336, 2) * 14_400).toBeCloseTo(672)
  })

  it.each([
    [0, 100],
    [Number.NaN, 100],
    [-5, 100],
    [100, Number.POSITIVE_INFINITY],
  ])('of %d by %d is drawn as it is', (width, height) => {
    expect(scaleOf(width, height, 336, 2)).toBe(1)
  })
})
