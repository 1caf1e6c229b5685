import { describe, expect, it } from 'vitest'
import type { FindingLine } from '../../domain/finding.js'
import { folded } from './folding.js'

const lines = [1, 2, 3, 4, 5, 6].map((id) => ({ id })) as FindingLine[]
const ids = (list: FindingLine[]) => list.map(({ id }) => id)

describe('folding', () => {
  it('shows the first of each stack, with what lies under it', () => {
    const { shown, under } = folded(
      lines,
      new Map([
        [2, 20],
        [4, 20],
        [5, 30],
        [6, 20],
      ]),
    )
    expect(ids(shown)).toEqual([1, 2, 3, 5])
    expect([...under]).toEqual([[2, 2]])
  })

  it('hides nothing whose stack has no other among the results', () => {
    expect(ids(folded(lines, new Map([[3, 9]])).shown)).toEqual([1, 2, 3, 4, 5, 6])
    expect(ids(folded(lines, new Map()).shown)).toEqual([1, 2, 3, 4, 5, 6])
  })
})
