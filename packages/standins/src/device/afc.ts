import type { Duplex } from 'node:stream'
import { AFC, afcHeader, afcPacket } from '@lumbrin/core/device/afc'
import { StreamReader } from '@lumbrin/core/device/stream'
import type { StandInDevice } from './device.js'
import type { DeviceFile } from './files.js'

const PATIENCE_MS = 600_000
const MOST_READ = 4 << 20
const { operation: OP, status: STATUS } = AFC

/** The media area of a made-up device over the file service; writing is refused. */
export async function serveFiles(device: StandInDevice, stream: Duplex): Promise<void> {
  const area = new MediaArea(device)
  const reader = new StreamReader(stream, PATIENCE_MS)
  for (;;) {
    const header = await reader.take(AFC.headerSize)
    if (!header) return
    const { size, number, operation } = afcHeader(header)
    const args = Buffer.from(await reader.need(size))
    const answer = await area.answer(operation, number, args)
    if (device.switches.cableSpeed === 0 && stream.writableCorked === 0) {
      // Answers to many questions go out together.
      stream.cork()
      setImmediate(() => stream.uncork())
    }
    const sent = device.send(stream, answer)
    if (device.switches.cableSpeed > 0 || stream.writableNeedDrain) await sent
    else sent.catch(() => {})
  }
}

interface OpenFile {
  file: DeviceFile
  position: number
  pieces: AsyncIterator<Uint8Array> | undefined
  rest: Uint8Array
}

class MediaArea {
  readonly #files = new Map<string, DeviceFile>()
  readonly #folders = new Map<string, Set<string>>([['/', new Set()]])
  readonly #open = new Map<bigint, OpenFile>()
  #nextHandle = 1n

  constructor(readonly device: StandInDevice) {
    for (const file of device.files.files())
      if (file.domain === 'CameraRollDomain' && file.path.startsWith('Media/')) this.#add(file)
  }

  #add(file: DeviceFile): void {
    const path = file.path.slice('Media'.length)
    this.#files.set(path, file)
    for (let at = path; at !== '/'; ) {
      const parent = at.slice(0, Math.max(1, at.lastIndexOf('/')))
      const name = at.slice(at.lastIndexOf('/') + 1)
      const names = this.#folders.get(parent) ?? new Set()
      this.#folders.set(parent, names.add(name))
      at = parent
    }
  }

  async answer(operation: number, number: bigint, args: Buffer): Promise<Uint8Array> {
    const data = (bytes: Uint8Array) => afcPacket(OP.data, number, new Uint8Array(0), bytes)
    const status = (code: number) => afcPacket(OP.status, number, word(BigInt(code)))
    switch (operation) {
      case OP.list: {
        const names = this.#folders.get(clean(args, 0))
        return names ? data(text(['.', '..', ...names])) : status(STATUS.notFound)
      }
      case OP.stat: {
        const stat = this.#stat(clean(args, 0))
        return stat ? data(text(stat)) : status(STATUS.notFound)
      }
      case OP.deviceInfo:
        return data(text(this.#info()))
      case OP.open:
        return this.#openFile(number, args, status)
      case OP.read: {
        const file = this.#open.get(args.readBigUInt64LE(0))
        return file ? data(await this.#read(file, Number(args.readBigUInt64LE(8)))) : status(STATUS.invalid)
      }
      case OP.seek: {
        const file = this.#open.get(args.readBigUInt64LE(0))
        if (!file || args.readBigUInt64LE(8) !== 0n) return status(STATUS.invalid)
        Object.assign(file, { position: Number(args.readBigInt64LE(16)), pieces: undefined, rest: new Uint8Array(0) })
        return status(STATUS.ok)
      }
      case OP.close:
        this.#open.delete(args.readBigUInt64LE(0))
        return status(STATUS.ok)
      // The reference's backup tool locks a file here before it begins; locks of a played device hold nobody off.
      case LOCK:
        return status(STATUS.ok)
      default:
        return status(STATUS.denied)
    }
  }

  #openFile(number: bigint, args: Buffer, status: (code: number) => Uint8Array): Uint8Array {
    const path = clean(args, 8)
    const known = this.#files.get(path)
    if (this.#folders.has(path)) return status(STATUS.isDirectory)
    if (!known && path !== SYNC_LOCK) return status(STATUS.notFound)
    const handle = this.#nextHandle++
    this.#open.set(handle, { file: known ?? EMPTY, position: 0, pieces: undefined, rest: new Uint8Array(0) })
    return afcPacket(OP.opened, number, word(handle))
  }

  async #read(open: OpenFile, wanted: number): Promise<Uint8Array> {
    if (open.file === EMPTY) return open.rest
    open.pieces ??= this.device.files.content(open.file, open.position)[Symbol.asyncIterator]()
    const size = Math.min(wanted, MOST_READ)
    while (open.rest.byteLength < size) {
      const next = await open.pieces.next()
      if (next.done) break
      open.rest = open.rest.byteLength > 0 ? Buffer.concat([open.rest, next.value]) : next.value
    }
    const piece = open.rest.subarray(0, size)
    open.rest = open.rest.subarray(piece.byteLength)
    open.position += piece.byteLength
    return piece
  }

  #stat(path: string): string[] | undefined {
    const file = this.#files.get(path)
    if (!file && !this.#folders.has(path)) return undefined
    const size = file?.size ?? 0
    const time = String(BigInt(file?.modifiedAt.getTime() ?? 0) * 1_000_000n)
    return [
      ['st_size', String(size)],
      ['st_blocks', String(Math.ceil(size / 512))],
      ['st_nlink', '1'],
      ['st_ifmt', file ? 'S_IFREG' : 'S_IFDIR'],
      ['st_mtime', time],
      ['st_birthtime', time],
    ].flat()
  }

  #info(): string[] {
    let used = 0
    for (const file of this.#files.values()) used += file.size
    const { capacity, productType } = this.device.identity
    return [
      ['Model', productType],
      ['FSTotalBytes', String(capacity)],
      ['FSFreeBytes', String(capacity - used)],
      ['FSBlockSize', '4096'],
    ].flat()
  }
}

const LOCK = 27
const SYNC_LOCK = '/com.apple.itunes.lock_sync'
const EMPTY: DeviceFile = { domain: '', path: '', id: '', size: 0, modifiedAt: new Date(0) }

/** A path as one tool sends it ("./a", "a/") or another ("/a"). */
function clean(args: Buffer, from: number): string {
  const end = args.indexOf(0, from)
  const parts = args
    .subarray(from, end < 0 ? undefined : end)
    .toString('utf8')
    .split('/')
  return `/${parts.filter((part) => part !== '' && part !== '.').join('/')}`
}

function word(value: bigint): Uint8Array {
  const bytes = Buffer.alloc(8)
  bytes.writeBigUInt64LE(value)
  return bytes
}

const text = (parts: string[]): Uint8Array => Buffer.from(parts.map((part) => `${part}\0`).join(''), 'utf8')
