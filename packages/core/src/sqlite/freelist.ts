import type { Report } from '../io/errors.js'
import type { Pager } from './pager.js'

/** The freelist: trunk pages list leaf pages, which keep their former content until they are used again. */
export interface Freelist {
  trunks: number[]
  leaves: number[]
}

/**
 * Walks the freelist ("Database File Format", section 1.5). A chain that leaves the file or turns back
 * is cut there and reported.
 */
export function readFreelist(pager: Pager, report: Report): Freelist {
  const free: Freelist = { trunks: [], leaves: [] }
  const seen = new Set<number>()
  for (let trunk = pager.header.firstTrunk; trunk !== 0; ) {
    if (seen.has(trunk) || trunk > pager.pageCount) {
      report({ code: 'freelist-cut', message: `the list of free pages breaks off at page ${trunk}` })
      break
    }
    seen.add(trunk)
    free.trunks.push(trunk)
    const bytes = pager.tryPage(trunk)
    if (!bytes) break
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const count = Math.min(view.getUint32(4), Math.floor(pager.header.usableSize / 4) - 2)
    for (let i = 0; i < count; i++) {
      const leaf = view.getUint32(8 + 4 * i)
      if (leaf >= 2 && leaf <= pager.pageCount && !seen.has(leaf)) {
        seen.add(leaf)
        free.leaves.push(leaf)
      }
    }
    trunk = view.getUint32(0)
  }
  return free
}
