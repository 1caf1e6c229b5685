import { Set as Asn1Set, fromBER, GeneralizedTime, Integer, OctetString, Sequence, Utf8String } from 'asn1js'
import { FormatError } from '../../io/errors.js'
import { isDict, type PlistValue, parsePlist } from '../../plist/read.js'

/** What an opened keychain item says, by the system's own short names. */
export type Attributes = Map<string, string | number | Date | Uint8Array>

/**
 * The attributes of an opened item: a set of pairs in DER (ITU-T X.690), in older ones a property list.
 * @throws FormatError where it is neither
 */
export function attributesOf(plain: Uint8Array): Attributes {
  if (Buffer.from(plain.subarray(0, 6)).toString('latin1') === 'bplist') return fromDict(parsePlist(plain))
  const result = parseDer(plain)
  if (!(result instanceof Asn1Set)) throw new FormatError('bad-value', 0, 'not a keychain item')
  const attributes: Attributes = new Map()
  for (const pair of result.valueBlock.value) {
    if (!(pair instanceof Sequence)) continue
    const [name, value] = pair.valueBlock.value
    const read = readValue(value)
    if (name instanceof Utf8String && read !== undefined) attributes.set(name.getValue(), read)
  }
  return attributes
}

/** Undefined: no DER; what nests without end exhausts the library's stack, and is none either. */
function parseDer(bytes: Uint8Array): unknown {
  try {
    const { result, offset } = fromBER(new Uint8Array(bytes).buffer)
    return offset === -1 ? undefined : result
  } catch {
    return undefined
  }
}

function readValue(value: unknown): string | number | Date | Uint8Array | undefined {
  if (value instanceof Utf8String) return value.getValue()
  if (value instanceof OctetString) return new Uint8Array(value.getValue())
  if (value instanceof Integer) return value.valueBlock.valueDec
  return value instanceof GeneralizedTime ? value.toDate() : undefined
}

function fromDict(value: PlistValue): Attributes {
  if (!isDict(value)) throw new FormatError('bad-value', 0, 'not a keychain item')
  const attributes: Attributes = new Map()
  for (const [name, one] of Object.entries(value))
    if (typeof one === 'string' || typeof one === 'number' || one instanceof Date || one instanceof Uint8Array)
      attributes.set(name, one)
  return attributes
}

/** An attribute as text; bytes that are no UTF-8 as base64. */
export function attributeText(attributes: Attributes, name: string): string | null {
  const value = attributes.get(name)
  if (value === undefined || value instanceof Date) return null
  if (!(value instanceof Uint8Array)) return String(value)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(value)
  } catch {
    return `base64:${Buffer.from(value).toString('base64')}`
  }
}
