/**
 * The same with half characters replaced by U+FFFD, as the Unicode Standard (chapter 3, D93b) proposes: UTF-16 may hold a
 * surrogate without its other half, UTF-8 and JSON for others may not. What has none is given back as it is.
 */
export function wellFormed<T>(value: T): T {
  if (typeof value === 'string') return value.toWellFormed() as T
  if (Array.isArray(value)) return wellFormedList(value) as T
  return isPlain(value) ? (wellFormedObject(value) as T) : value
}

function wellFormedList(list: readonly unknown[]): readonly unknown[] {
  const made = list.map(wellFormed)
  return made.some((one, i) => one !== list[i]) ? made : list
}

function wellFormedObject(fields: { [key: string]: unknown }): { [key: string]: unknown } {
  const made = Object.entries(fields).map(([key, value]) => [wellFormed(key), wellFormed(value)] as const)
  return made.some(([key, value]) => value !== fields[key]) ? Object.fromEntries(made) : fields
}

/** Dates, bytes and the like hold no text. */
function isPlain(value: unknown): value is { [key: string]: unknown } {
  if (typeof value !== 'object' || value === null) return false
  const prototype = Object.getPrototypeOf(value)
  return prototype === Object.prototype || prototype === null
}
