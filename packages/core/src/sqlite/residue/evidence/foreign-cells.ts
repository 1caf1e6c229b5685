import { decodeValue, serialSize } from '../../record.js'
import { type Candidate, sizeOf } from './candidate.js'
import { countsUp, type Profile, type Range } from './profile.js'

// So many rows, live and lost, say what a column holds.
const LEAST_LIVE = 32
const LEAST_LOST = 8
const LEAST_DISTINCT = 6

/**
 * Whether cells of one page that fit a table by their types are another table's, dropped without a trace: in some column
 * their numbers lie together, far away from those of all live rows.
 */
export function areForeign(bytes: Uint8Array, cells: readonly Candidate[], { fitted, ranges }: Profile): boolean {
  if (!fitted || cells.length < LEAST_LOST) return false
  return ranges.some((range, position) => isElsewhere(range, numbersAt(bytes, cells, position)))
}

function isElsewhere(range: Range, lost: readonly number[]): boolean {
  const { numbers, low, high } = range
  if (numbers < LEAST_LIVE || countsUp(range) || new Set(lost).size < LEAST_DISTINCT) return false
  const least = Math.min(...lost)
  const most = Math.max(...lost)
  return Math.max(low - most, least - high) > Math.max(high - low, most - least)
}

function numbersAt(bytes: Uint8Array, cells: readonly Candidate[], position: number): number[] {
  return cells.flatMap(({ types, body, end, lostSize }) => {
    const type = types[position] ?? 0
    if (type < 1 || type > 9) return []
    let at = body
    for (let before = 0; before < position; before++) at += sizeOf(types[before] as number, lostSize)
    return at + serialSize(type) > end ? [] : [Number(decodeValue(bytes, at, type, serialSize(type), 'utf8'))]
  })
}
