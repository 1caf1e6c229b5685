import type { Moment } from './states.js'

/** When an item went: it was still there at `from`, and no more at `to`. Milliseconds; null: not known. */
export interface LossWindow {
  from: number | null
  to: number | null
}

/**
 * The loss window of an item (rule 8): from the last state that has it live to the first newer one that has it in a bin,
 * or whose silence counts. What was never seen live went before the first state that has it in a bin, or that has
 * leftovers of it and whose silence counts: states older than that may be from before it was made. Undefined: no state
 * says that it is gone. `moments`: the newest first.
 */
export function lossWindow(moments: readonly Moment[]): LossWindow | undefined {
  const oldestFirst = [...moments].reverse()
  const last = moments.find(({ live }) => live)
  const gone = oldestFirst.find((one) =>
    last ? one.at > last.at && (one.binned || one.silent) : one.binned || (one.leftover && one.silent),
  )
  if (!gone) return undefined
  const window = { from: last ? dated(last.at) : null, to: dated(gone.at) }
  return window.from === null && window.to === null ? undefined : window
}

const dated = (at: number): number | null => (Number.isFinite(at) ? at : null)

/** True where the two stretches of time share a moment; an open end reaches for ever. */
export function overlaps(a: LossWindow, b: LossWindow): boolean {
  const [from, to] = [Math.max(a.from ?? -Infinity, b.from ?? -Infinity), Math.min(a.to ?? Infinity, b.to ?? Infinity)]
  return from <= to
}
