import type { Duplex } from 'node:stream'
import { DeviceError } from './errors.js'
import { StreamReader, send } from './stream.js'

/** The file service: 40-byte headers of little-endian 64-bit fields, then arguments, then payload. */
export const AFC = {
  magic: 'CFA6LPAA',
  headerSize: 40,
  operation: {
    status: 1,
    data: 2,
    list: 3,
    stat: 10,
    deviceInfo: 11,
    open: 13,
    opened: 14,
    read: 15,
    seek: 17,
    position: 19,
    close: 20,
  },
  mode: { read: 1 },
  status: { ok: 0, invalid: 7, notFound: 8, isDirectory: 9, denied: 10, notSupported: 15 },
} as const

// Reads of 64 KiB and more run at full speed; 256 KiB leaves little to gain.
const PIECE = 256 << 10
// A folder of a hundred thousand long names stays below this.
const MOST_ANSWER = 32 << 20

/** A file or folder of the device's media area. */
export interface AfcEntry {
  /** From the root of the area, beginning with "/". */
  path: string
  kind: 'file' | 'directory' | 'link'
  size: number
  modifiedAt: Date | null
  createdAt: Date | null
}

interface Answer {
  operation: number
  /** Behind the header. */
  data: Uint8Array
}

/** The media area of a device, read-only. Requests are pipelined: one may be sent before earlier ones are answered. */
export class AfcClient {
  readonly #reader: StreamReader
  #packet = 0n
  /** Answers come in the order of the questions. */
  #last: Promise<unknown> = Promise.resolve()

  constructor(stream: Duplex, silenceMs?: number) {
    this.#reader = new StreamReader(stream, silenceMs)
  }

  /** Bytes of the device's storage: all, and free. */
  async space(): Promise<{ bytes: number; free: number }> {
    const info = pairs(await this.#data(AFC.operation.deviceInfo, new Uint8Array(0)))
    return { bytes: Number(info.get('FSTotalBytes') ?? 0), free: Number(info.get('FSFreeBytes') ?? 0) }
  }

  /** Names in a folder; empty where there is none. */
  async list(path: string): Promise<string[]> {
    const data = await this.#data(AFC.operation.list, text(path)).catch(emptyIfGone)
    return data ? strings(data).filter((name) => name !== '.' && name !== '..' && !name.includes('/')) : []
  }

  /** What lies at a path; undefined: nothing. */
  async stat(path: string): Promise<AfcEntry | undefined> {
    const data = await this.#data(AFC.operation.stat, text(path)).catch(emptyIfGone)
    if (!data) return undefined
    const found = pairs(data)
    return {
      path,
      kind: KINDS[found.get('st_ifmt') ?? ''] ?? 'link',
      size: Number(found.get('st_size') ?? 0),
      modifiedAt: nanoseconds(found.get('st_mtime')),
      createdAt: nanoseconds(found.get('st_birthtime')),
    }
  }

  /** Everything below a folder, folders before what is in them; links are named and not followed. */
  async *walk(root: string): AsyncGenerator<AfcEntry> {
    const folders = [root]
    for (let folder = folders.pop(); folder !== undefined; folder = folders.pop())
      for await (const found of this.#statsInTurn(folder, (await this.list(folder)).sort()))
        for (const entry of found) {
          yield entry
          // A path that grows for ever is a trap.
          if (entry.kind === 'directory' && entry.path.length < MOST_PATH) folders.push(entry.path)
        }
  }

  /** Batch by batch; the device answers the next one while this one is worked on. */
  async *#statsInTurn(folder: string, names: string[]): AsyncGenerator<AfcEntry[]> {
    let coming: Promise<AfcEntry[]> | undefined
    for (const batch of batches(names, STATS_AT_ONCE)) {
      const next = this.#stats(folder, batch)
      next.catch(() => {})
      if (coming) yield await coming
      coming = next
    }
    if (coming) yield await coming
  }

  async #stats(folder: string, names: string[]): Promise<AfcEntry[]> {
    // One packet for all questions: each of its own would cost a record of the secured session.
    const { stream } = this.#reader
    stream.cork()
    process.nextTick(() => stream.uncork())
    const found = await Promise.all(names.map((name) => this.stat(`${folder === '/' ? '' : folder}/${name}`)))
    return found.flatMap((entry) => entry ?? [])
  }

  /** The bytes of a file from `start` on, piece by piece. Whoever knows its size saves a question at its end. */
  async *read(path: string, start = 0, size: number | null = null): AsyncGenerator<Uint8Array> {
    const opened = await this.#ask(AFC.operation.open, bytes(words(AFC.mode.read), text(path)))
    if (opened.operation !== AFC.operation.opened) throw statusError(opened)
    const handle = word(opened.data, 0)
    try {
      if (start > 0) await this.#ask(AFC.operation.seek, words(handle, 0n, BigInt(start)))
      for (let at = start; at !== size; ) {
        const piece = await this.#data(AFC.operation.read, words(handle, BigInt(PIECE)))
        if (piece.byteLength === 0) return
        at += piece.byteLength
        yield piece
      }
    } finally {
      // Nobody waits for this answer: the next question goes out behind it.
      if (!this.#reader.stream.destroyed) this.#ask(AFC.operation.close, words(handle)).catch(() => {})
    }
  }

  close(): void {
    this.#reader.stream.destroy()
  }

  async #data(operation: number, args: Uint8Array): Promise<Uint8Array> {
    const answer = await this.#ask(operation, args)
    if (answer.operation !== AFC.operation.data) throw statusError(answer)
    return answer.data
  }

  async #ask(operation: number, args: Uint8Array): Promise<Answer> {
    const packet = ++this.#packet
    const sent = send(this.#reader.stream, afcPacket(operation, packet, args))
    // It may fail while the answer before is still waited for, when nobody looks at it yet.
    sent.catch(() => {})
    const answer = this.#last.then(() => sent).then(() => this.#answer(packet))
    this.#last = answer.catch(() => {})
    return answer
  }

  async #answer(packet: bigint): Promise<Answer> {
    const header = await this.#reader.need(AFC.headerSize)
    const { size, operation: answered, number } = afcHeader(header)
    if (size < 0 || size > MOST_ANSWER || number !== packet) throw new DeviceError('garbled')
    return { operation: answered, data: await this.#reader.need(size) }
  }
}

const MOST_PATH = 1024
// Waiting for each answer would cost the way there and back for each file.
const STATS_AT_ONCE = 512

function* batches<T>(all: readonly T[], size: number): Generator<T[]> {
  for (let at = 0; at < all.length; at += size) yield all.slice(at, at + size)
}

const KINDS: Record<string, AfcEntry['kind']> = { S_IFREG: 'file', S_IFDIR: 'directory', S_IFLNK: 'link' }

/** A packet: header, arguments, payload. */
export function afcPacket(
  operation: number,
  number: bigint,
  args: Uint8Array,
  payload: Uint8Array = new Uint8Array(0),
): Uint8Array {
  const packet = Buffer.alloc(AFC.headerSize + args.byteLength + payload.byteLength)
  packet.write(AFC.magic, 0, 'latin1')
  packet.writeBigUInt64LE(BigInt(packet.byteLength), 8)
  packet.writeBigUInt64LE(BigInt(AFC.headerSize + args.byteLength), 16)
  packet.writeBigUInt64LE(number, 24)
  packet.writeBigUInt64LE(BigInt(operation), 32)
  packet.set(args, AFC.headerSize)
  packet.set(payload, AFC.headerSize + args.byteLength)
  return packet
}

/** A packet's header; `size`: bytes behind it, `argsSize`: how many of them are arguments. @throws DeviceError('garbled') */
export function afcHeader(header: Uint8Array): { size: number; argsSize: number; number: bigint; operation: number } {
  if (Buffer.from(header.subarray(0, 8)).toString('latin1') !== AFC.magic) throw new DeviceError('garbled')
  const size = Number(word(header, 8)) - AFC.headerSize
  const argsSize = Number(word(header, 16)) - AFC.headerSize
  if (size < 0 || argsSize < 0 || argsSize > size) throw new DeviceError('garbled')
  return { size, argsSize, number: word(header, 24), operation: Number(word(header, 32)) }
}

function statusError({ operation, data }: Answer): DeviceError {
  const code = operation === AFC.operation.status && data.byteLength >= 8 ? Number(word(data, 0)) : -1
  if (code < 0) return new DeviceError('garbled')
  return Object.assign(new DeviceError('refused', `The device does not give this file (status ${code}).`), {
    status: code,
  })
}

/** Nothing at that path is an answer, not a fault. */
function emptyIfGone(thrown: unknown): undefined {
  const { status } = thrown as { status?: number }
  if (status === AFC.status.notFound || status === AFC.status.invalid || status === AFC.status.isDirectory)
    return undefined
  throw thrown
}

const word = (data: Uint8Array, at: number): bigint => {
  if (at + 8 > data.byteLength) throw new DeviceError('garbled')
  return new DataView(data.buffer, data.byteOffset, data.byteLength).getBigUint64(at, true)
}

function words(...values: (number | bigint)[]): Uint8Array {
  const all = Buffer.alloc(values.length * 8)
  for (const [index, value] of values.entries()) all.writeBigUInt64LE(BigInt(value), index * 8)
  return all
}

const text = (value: string): Uint8Array => Buffer.from(`${value}\0`, 'utf8')
const bytes = (...parts: Uint8Array[]): Uint8Array => Buffer.concat(parts)
const strings = (data: Uint8Array): string[] =>
  Buffer.from(data)
    .toString('utf8')
    .split('\0')
    .filter((one) => one !== '')

function pairs(data: Uint8Array): Map<string, string> {
  const all = Buffer.from(data).toString('utf8').split('\0')
  const map = new Map<string, string>()
  for (let at = 0; at + 1 < all.length; at += 2) map.set(all[at] as string, all[at + 1] as string)
  return map
}

function nanoseconds(value: string | undefined): Date | null {
  const date = new Date(Number(value) / 1e6)
  return value && !Number.isNaN(date.getTime()) ? date : null
}
