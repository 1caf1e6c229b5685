import type { ContentState } from '@lumbrin/core/categories/content-states'
import type { Sighting } from '@lumbrin/core/categories/types'
import { asJson } from './json.js'
import { type Keys, keysOf, versionOf } from './merging.js'
import { hasOf, type Names, namesOf } from './names.js'

/** A sighting with what can be had of its content. */
export interface SeenSighting {
  sighting: Sighting
  content: ContentState
}

/** What a finding shows of its best copy, as columns of both tables. */
export const WORD_COLUMNS = ['happened_at', 'title', 'text', 'content_state', 'person_id', 'talk_id', 'has'] as const

/** A sighting made ready for the database: all that follows from it alone. */
export interface Prepared extends SeenSighting {
  keys: Keys
  names: Names
  row: ReturnType<typeof rowOf>
}

/** Costs a good part of the time of storing, and needs no database: it is done while that is busy. */
export const prepare = (seen: SeenSighting): Prepared => ({
  ...seen,
  keys: keysOf(seen.sighting),
  names: namesOf(seen.sighting),
  row: rowOf(seen),
})

function rowOf({ sighting, content }: SeenSighting) {
  return {
    version: versionOf(sighting),
    category: sighting.category,
    condition: sighting.condition,
    happened_at: sighting.when ? new Date(sighting.when) : null,
    title: cut(sighting.title, 500),
    text: sighting.text,
    fields: asJson(sighting.fields),
    content: sighting.content && asJson(sighting.content),
    content_state: content,
    origin: asJson(sighting.origin),
    missing: asJson(sighting.missing),
    confidence: sighting.confidence,
    has: hasOf(sighting),
  }
}

/** The columns that a finding keeps of the sighting that it came with; texts as long as their columns take. */
export const keptColumnsOf = ({ fields, title, text, content }: Sighting) => ({
  conversation: cut(fields.conversation, 190),
  conversation_title: cut(fields.conversationTitle ?? (fields.conversation ? title : ''), 190),
  bytes: content?.bytes ?? Buffer.byteLength(text ?? ''),
})

/** Cut to a number of characters, none of them in half. */
function cut(value: unknown, length: number): string {
  const text = typeof value === 'string' ? value : ''
  return text.length <= length ? text : [...text].slice(0, length).join('')
}
