import { fromCocoa } from '../../io/time.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import type { Json } from '../types.js'

/** Reactions by their number in `associated_message_type`; 1000 more takes the same one back. */
const KINDS: Record<number, string> = {
  2000: 'love',
  2001: 'like',
  2002: 'dislike',
  2003: 'laugh',
  2004: 'emphasise',
  2005: 'question',
  2006: 'emoji',
  2007: 'sticker',
}

export type Reaction = {
  kind: string
  sender: string | null
  fromMe: boolean
  when: string | null
  emoji: string | null
}

/** True for rows that are a reaction to another message and not a message of their own. */
export function isReaction(row: Row): boolean {
  const type = numberValue(row.values.associated_message_type) ?? 0
  return type >= 2000 && type < 4000
}

/** Reactions by the guid of the message they belong to; those taken back are left out. */
export class Reactions {
  readonly #byGuid = new Map<string, Map<string, Reaction>>()

  add(row: Row, sender: string | null): void {
    const target = targetGuid(textValue(row.values.associated_message_guid))
    const type = numberValue(row.values.associated_message_type) ?? 0
    const kind = KINDS[type >= 3000 ? type - 1000 : type]
    if (!target || !kind) return
    const fromMe = numberValue(row.values.is_from_me) === 1
    const key = `${kind}\0${fromMe ? '' : sender}`
    const known = this.#byGuid.get(target) ?? new Map<string, Reaction>()
    this.#byGuid.set(target, known)
    if (type >= 3000) known.delete(key)
    else
      known.set(key, {
        kind,
        sender: fromMe ? null : sender,
        fromMe,
        when: fromCocoa(row.values.date)?.toISOString() ?? null,
        emoji: textValue(row.values.associated_message_emoji),
      })
  }

  of(guid: string | null): Json {
    return guid ? [...(this.#byGuid.get(guid)?.values() ?? [])] : []
  }
}

/** "p:0/GUID" and "bp:GUID" both name the message. */
function targetGuid(reference: string | null): string | null {
  return reference?.replace(/^(p:\d+\/|bp:)/, '') ?? null
}
