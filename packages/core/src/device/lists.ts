import { build, buildBinary, type PlistValue as ListValue } from 'plist'
import { FormatError } from '../io/errors.js'
import { isDict, type PlistValue, parsePlist } from '../plist/read.js'
import { DeviceError } from './errors.js'
import { type StreamReader, send } from './stream.js'

/** What can be put into a list that is sent. Never undefined. */
export type { ListValue }
export type Dict = { [key: string]: PlistValue }

// Lists of devices carry icons and settings at most; more is garbage, or meant to exhaust memory.
const MOST_LIST_BYTES = 16 << 20

/** A property list as XML behind its length in 32 bits, big-endian: the frame of lockdown and of most services. */
export const xmlFrame = (value: ListValue): Uint8Array => framed(Buffer.from(build(value)))

/** The same as a binary list, which the backup service wants. */
export const binaryFrame = (value: ListValue): Uint8Array => framed(buildBinary(value))

function framed(body: Uint8Array): Uint8Array {
  const frame = Buffer.alloc(4 + body.byteLength)
  frame.writeUInt32BE(body.byteLength, 0)
  frame.set(body, 4)
  return frame
}

/** The next list of a connection; undefined: it ended. @throws DeviceError('garbled') */
export async function takeList(reader: StreamReader): Promise<PlistValue | undefined> {
  const head = await reader.take(4)
  return head && listOfSize(reader, new DataView(head.buffer, head.byteOffset, 4).getUint32(0))
}

/** The next list, which has to come. */
export async function needList(reader: StreamReader): Promise<PlistValue> {
  const head = await reader.need(4)
  return listOfSize(reader, new DataView(head.buffer, head.byteOffset, 4).getUint32(0))
}

/** The next list, which has to be a dictionary. */
export async function needDict(reader: StreamReader): Promise<Dict> {
  return dictOf(await needList(reader))
}

/** A list of known size. */
export async function listOfSize(reader: StreamReader, size: number): Promise<PlistValue> {
  if (size > MOST_LIST_BYTES) throw new DeviceError('garbled')
  const bytes = await reader.need(size)
  try {
    return parsePlist(bytes)
  } catch (thrown) {
    if (thrown instanceof FormatError) throw new DeviceError('garbled', undefined, { cause: thrown })
    throw thrown
  }
}

/** @throws DeviceError('garbled') where it is no dictionary */
export function dictOf(value: PlistValue): Dict {
  if (!isDict(value)) throw new DeviceError('garbled')
  return value
}

/** Asks a service that answers each list with one. */
export async function ask(reader: StreamReader, question: ListValue): Promise<Dict> {
  await send(reader.stream, xmlFrame(question))
  return needDict(reader)
}
