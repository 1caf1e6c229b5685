import { FormatError } from '../../io/errors.js'
import { fromCocoa } from '../../io/time.js'
import { isDict, parsePlistDict } from '../../plist/read.js'
import type { Json } from '../types.js'
import { attributedBodyText } from './body.js'

export interface Edits {
  /** Earlier wordings, oldest first. */
  versions: Json[]
  /** The sender took it back. */
  unsent: boolean
}

const NONE: Edits = { versions: [], unsent: false }

/**
 * What a message's summary says of its past (16 and later; from memory): under `ec` the wordings of each part with their
 * times, the present one last, under `rp` the parts that were taken back.
 */
export function editsOf(summary: unknown, body: string | null): Edits {
  if (!(summary instanceof Uint8Array)) return NONE
  try {
    const { ec, rp } = parsePlistDict(summary)
    const parts = isDict(ec) ? Object.values(ec).flatMap((part) => (Array.isArray(part) ? part : [])) : []
    const versions = parts.flatMap((version) => {
      if (!isDict(version) || !(version.t instanceof Uint8Array)) return []
      const text = attributedBodyText(version.t)
      return text === null || text === body ? [] : [{ text, at: fromCocoa(version.d)?.toISOString() ?? null }]
    })
    return { versions, unsent: Array.isArray(rp) && rp.length > 0 }
  } catch (thrown) {
    // A damaged summary takes nothing from the message itself.
    if (thrown instanceof FormatError) return NONE
    throw thrown
  }
}

const EVENTS: Record<number, string> = {
  2: 'renamed',
  3: 'left',
  4: 'location',
  5: 'audio kept',
  6: 'activity',
}

/** What an event in a conversation was, by the numbers of `item_type` and `group_action_type`. */
export function eventOf(type: number, action: number): string | null {
  if (type === 1) return action === 1 ? 'removed' : 'added'
  if (type === 3 && action !== 0) return 'picture changed'
  return EVENTS[type] ?? null
}
