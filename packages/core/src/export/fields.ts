import type { Json } from '../categories/types.js'
import { plainText } from './plain-text.js'

/** A sighting's fields, or a record inside of them, on their way into a line-based format. */
export type Fields = { [key: string]: Json }

/** A text of one line: whatever could begin another line of the file is gone. Null: there is none. */
export function textOf(fields: Fields, name: string): string | null {
  const value = fields[name]
  return typeof value === 'string' && value !== '' ? oneLine(value) : null
}

/** A text that may have lines of its own, which the format escapes. */
export function linesOf(fields: Fields, name: string): string | null {
  const value = fields[name]
  return typeof value === 'string' && value !== ''
    ? value
        .split(/\r\n|[\r\n]/)
        .map(plainText)
        .join('\n')
    : null
}

/** The same for text that is no field. */
export const oneLine = (text: string): string => plainText(text.replace(/\s+/g, ' '))

/** The records of a list; whatever else stands in it is passed over. */
export const recordsOf = (value: Json | undefined): Fields[] =>
  Array.isArray(value)
    ? value.filter((one): one is Fields => typeof one === 'object' && one !== null && !Array.isArray(one))
    : []
