import { setImmediate as nextTurn } from 'node:timers/promises'
import type { Report, Warning } from '../../io/errors.js'
import type { ByteSource } from '../../io/source.js'
import { marksIn } from './patterns.js'
import type { Carved, Extent, Pattern } from './types.js'
import { WindowedBytes } from './window.js'

const PIECE = 1 << 20
// Marks are looked for in pieces that overlap by the longest of them.
const OVERLAP = 16

// Honest bytes are looked at two or three times. Bytes of nothing but beginnings would be looked at for ever.
const MOST_LOOKED = 16
const LEAST_LOOKED = 1 << 28

const GIVEN_UP: Warning = {
  code: 'carving-given-up',
  message: 'These bytes hold so many beginnings of files that the search was given up; what was found so far is shown.',
}

/**
 * Searches bytes for files, by structure and not by their beginnings alone; each byte belongs to one whole file at most.
 * Memory is bounded by the windows, however large the source is. `begin`: the first byte at which a file may begin.
 * `pulse` is called after each piece; what it throws ends the search.
 */
export async function* carve(
  source: ByteSource,
  report: Report,
  begin = 0,
  pulse: () => Promise<void> = async () => {},
): AsyncGenerator<Carved> {
  let told = false
  const unread = (start: number, end: number) => {
    if (!told) report({ code: 'file-unreadable', message: `Bytes ${start} to ${end} and perhaps more cannot be read.` })
    told = true
  }
  const search = new WindowedBytes(source, Number.POSITIVE_INFINITY, unread)
  const walked = new WindowedBytes(source, LEAST_LOOKED + MOST_LOOKED * source.size)
  let free = begin
  for (let from = 0; from < search.size; from += PIECE) {
    // Reading is synchronous: whoever else waits for this thread has a turn between two pieces.
    await nextTurn()
    await pulse()
    const piece = search.at(from, PIECE + OVERLAP)
    for (const { at, pattern } of marksIn(piece, PIECE)) {
      if (from + at < free) continue
      const found = beginning(pattern, from + at, walked)
      if (walked.exhausted) return report(GIVEN_UP)
      if (!found || found.start < free) continue
      yield found
      if (found.wholeness === 'whole') free = found.end
    }
  }
}

/** The file that a mark is of; undefined: it only looks like one. */
function beginning(pattern: Pattern, markAt: number, bytes: WindowedBytes): Carved | undefined {
  const start = markAt - pattern.markAt
  const found = start < 0 ? undefined : pattern.walk(bytes, start)
  if (!found) return undefined
  // A pattern may stand for several formats of one structure.
  const { mime, ending } = pattern.kindOf?.(bytes, start, found.end) ?? pattern
  return { mime, ending, start, ...proven(found, bytes) }
}

/** A file in whose sound or points another one begins that is whole: from there on its own bytes were overwritten. */
function proven({ end, wholeness, unproven }: Extent, bytes: WindowedBytes): Pick<Carved, 'end' | 'wholeness'> {
  for (let from = unproven?.start ?? 0; unproven && from < unproven.end; from += PIECE) {
    const piece = bytes.at(from, Math.min(PIECE + OVERLAP, unproven.end - from)).slice()
    for (const { at, pattern } of marksIn(piece, PIECE)) {
      const start = from + at - pattern.markAt
      const other = pattern.walk(bytes, start)
      // Sound may look like sound.
      if (other?.wholeness === 'whole' && !other.unproven && other.end <= unproven.end)
        return { end: start, wholeness: 'cut' }
    }
  }
  return { end, wholeness }
}
