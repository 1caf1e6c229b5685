import { digest } from '../io/hash.js'
import type { Category, Sighting } from './types.js'

/**
 * How items are told apart that have an id of their own, and a likeness to go by where it was lost: time and text, or
 * name and numbers. What has neither stands for itself.
 */
export function keyedBy(
  id: (sighting: Sighting) => string | null,
  likeness: (sighting: Sighting) => string | null,
): Required<Pick<Category, 'identity' | 'likeness'>> {
  return {
    identity: (sighting) => id(sighting) ?? likeness(sighting) ?? placeOf(sighting),
    likeness,
  }
}

const placeOf = ({ origin, fields }: Sighting): string =>
  `place:${JSON.stringify([origin.path, origin.place, origin.page, origin.offset, origin.rowid, fields.fileName ?? null])}`

/** A field's text with a name before it; null where the field is empty. */
export const ownId = (name: string, value: unknown): string | null =>
  typeof value === 'string' && value !== '' ? `${name}:${value}` : null

/** A message by when, which way and what: two of the same text within one second are one. */
export const talkLikeness = ({ fields, when, text }: Sighting): string | null =>
  when && text
    ? `text:${digest('sha256', JSON.stringify([when, fields.direction ?? null, fields.app ?? null, text]))}`
    : null
