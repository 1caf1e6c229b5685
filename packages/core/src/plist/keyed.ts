import { FormatError } from '../io/errors.js'
import { COCOA_EPOCH_SECONDS } from '../io/time.js'
import { isDict, isUid, type PlistValue, parsePlistDict } from './read.js'

// Archives of a backup nest a handful of levels; the limit keeps a made-up one from overflowing the stack.
const MAX_DEPTH = 64

/**
 * Opens a keyed archive (NSKeyedArchiver) into plain values: references are followed, lists, maps, data,
 * strings, dates and UUIDs become their natural form, any other class a map of its fields.
 * A reference that leads back to its own holder becomes null.
 * @throws FormatError when it is no keyed archive
 */
export function unarchive(bytes: Uint8Array): PlistValue {
  const archive = parsePlistDict(bytes)
  const objects = archive.$objects
  const top = archive.$top
  if (!Array.isArray(objects) || !isDict(top)) throw new FormatError('bad-magic', 0, 'not a keyed archive')
  return new Unarchiver(objects).value(top.root ?? Object.values(top)[0] ?? null, 0)
}

class Unarchiver {
  readonly #objects: PlistValue[]
  readonly #memo = new Map<number, PlistValue>()
  readonly #open = new Set<number>()

  constructor(objects: PlistValue[]) {
    this.#objects = objects
  }

  value(raw: PlistValue | undefined, depth: number): PlistValue {
    if (depth > MAX_DEPTH) throw new FormatError('too-deep', 0, `keyed archive nested over ${MAX_DEPTH} levels`)
    if (raw === undefined || raw === '$null') return null
    if (isUid(raw)) return this.#reference(raw.UID, depth)
    if (Array.isArray(raw)) return raw.map((item) => this.value(item, depth + 1))
    return isDict(raw) ? this.#object(raw, depth) : raw
  }

  #reference(index: number, depth: number): PlistValue {
    const known = this.#memo.get(index)
    if (known !== undefined) return known
    if (index === 0 || this.#open.has(index)) return null
    this.#open.add(index)
    const value = this.value(this.#objects[index], depth + 1)
    this.#open.delete(index)
    this.#memo.set(index, value)
    return value
  }

  #object(fields: { [key: string]: PlistValue }, depth: number): PlistValue {
    const inner = (name: string) => this.value(fields[name], depth + 1)
    if ('NS.keys' in fields) return this.#map(inner('NS.keys'), inner('NS.objects'))
    for (const name of ['NS.objects', 'NS.string', 'NS.data', 'NS.relative']) if (name in fields) return inner(name)
    if ('NS.bytes' in fields) return inner('NS.bytes')
    if (typeof fields['NS.time'] === 'number') return new Date((fields['NS.time'] + COCOA_EPOCH_SECONDS) * 1000)
    if ('NS.uuidbytes' in fields) return uuidText(fields['NS.uuidbytes'])
    const plain: { [key: string]: PlistValue } = {}
    for (const key of Object.keys(fields)) if (key !== '$class') plain[key] = inner(key)
    return plain
  }

  #map(keys: PlistValue, values: PlistValue): PlistValue {
    const map: { [key: string]: PlistValue } = Object.create(null)
    if (Array.isArray(keys) && Array.isArray(values))
      for (const [i, key] of keys.entries()) map[String(key)] = values[i] ?? null
    return map
  }
}

function uuidText(bytes: PlistValue | undefined): PlistValue {
  if (!(bytes instanceof Uint8Array) || bytes.length !== 16) return null
  const hex = Buffer.from(bytes).toString('hex').toUpperCase()
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}
