import type { SqlValue } from '../../values.js'

/** Positions of known values that are not those of the live row; undefined there: it has no such column. */
export function changedPositions(
  known: readonly (SqlValue | undefined)[],
  live: readonly (SqlValue | undefined)[],
): number[] {
  const changed: number[] = []
  for (const [position, value] of known.entries())
    if (value !== undefined && !sameValue(value, live[position])) changed.push(position)
  return changed
}

/** Equality of stored values; blobs by their bytes. */
function sameValue(a: SqlValue, b: SqlValue | undefined): boolean {
  if (b === undefined) return a === null
  if (a instanceof Uint8Array) return b instanceof Uint8Array && Buffer.compare(a, b) === 0
  return a === b || (typeof a !== typeof b && a !== null && b !== null && String(a) === String(b))
}
