import { FormatError, type Report } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import type { Overlay } from './pager.js'

/**
 * A page image in a write-ahead log. `current`: part of the database's state or of a state before it; `uncommitted`:
 * behind the last commit; `stale`: of an earlier round of the log, which was overwritten from its start.
 */
export interface Frame {
  page: number
  /** Byte offset of the image in the log. */
  offset: number
  age: 'current' | 'uncommitted' | 'stale'
  /** Counts the transactions of the log: frames of one belong together. */
  transaction: number
}

export interface WriteAheadLog {
  frames: Frame[]
  /** The newest committed image of each page. Null: the log holds no commit. */
  overlay: Overlay | null
}

const HEADER = 32
const FRAME_HEADER = 24
const MAGIC_LE = 0x377f0682
const MAGIC_BE = 0x377f0683

/**
 * Reads a write-ahead log ("WAL-mode File Format"). Checksums decide what is current; frames behind the first wrong
 * one are kept as leftovers if their page number makes sense. Undefined: no log of this page size.
 */
export function readWal(source: ByteSource, pageSize: number, report: Report): WriteAheadLog | undefined {
  if (source.size < HEADER) return undefined
  const head = source.readSync(0, HEADER)
  const view = new DataView(head.buffer, head.byteOffset, HEADER)
  const magic = view.getUint32(0)
  if (magic !== MAGIC_LE && magic !== MAGIC_BE) return undefined
  const declared = view.getUint32(8) === 1 ? 65536 : view.getUint32(8)
  if (declared !== pageSize) {
    report({
      code: 'wal-unfit',
      message: `the write-ahead log has pages of ${declared} bytes, the database ${pageSize}; it is left out`,
    })
    return undefined
  }
  return new WalReader(source, pageSize, magic === MAGIC_LE, view).read()
}

class WalReader {
  readonly #frames: Frame[] = []
  readonly #images = new Map<number, { source: ByteSource; offset: number }>()
  #pending: Frame[] = []
  #pageCount = 0
  #sums: [number, number]
  #current = true
  #transaction = 0

  constructor(
    readonly source: ByteSource,
    readonly pageSize: number,
    readonly littleEndian: boolean,
    readonly header: DataView,
  ) {
    this.#sums = this.#sum(header, 0, 24, [0, 0])
    // A header that is damaged itself vouches for nothing behind it.
    if (this.#sums[0] !== header.getUint32(24) || this.#sums[1] !== header.getUint32(28)) this.#current = false
  }

  read(): WriteAheadLog {
    const step = FRAME_HEADER + this.pageSize
    for (let at = HEADER; at + step <= this.source.size; at += step) {
      const bytes = this.source.readSync(at, at + step)
      this.#frame(new DataView(bytes.buffer, bytes.byteOffset, step), at)
    }
    for (const frame of this.#pending) this.#frames.push({ ...frame, age: 'uncommitted' })
    const overlay = this.#pageCount > 0 ? { images: this.#images, pageCount: this.#pageCount } : null
    return { frames: this.#frames, overlay }
  }

  #frame(view: DataView, at: number): void {
    const page = view.getUint32(0)
    if (page === 0) return
    const commit = view.getUint32(4)
    const frame: Frame = { page, offset: at + FRAME_HEADER, age: 'current', transaction: this.#transaction }
    if (commit !== 0) this.#transaction++
    if (!this.#isCurrent(view)) {
      this.#frames.push({ ...frame, age: 'stale' })
      return
    }
    this.#pending.push(frame)
    if (commit === 0) return
    this.#pageCount = commit
    for (const one of this.#pending) this.#images.set(one.page, { source: this.source, offset: one.offset })
    this.#frames.push(...this.#pending)
    this.#pending = []
  }

  #isCurrent(view: DataView): boolean {
    if (!this.#current) return false
    const sameSalts =
      view.getUint32(8) === this.header.getUint32(16) && view.getUint32(12) === this.header.getUint32(20)
    const sums = sameSalts && this.#sum(view, FRAME_HEADER, view.byteLength, this.#sum(view, 0, 8, this.#sums))
    this.#current = sums !== false && sums[0] === view.getUint32(16) && sums[1] === view.getUint32(20)
    if (this.#current && sums) this.#sums = sums
    return this.#current
  }

  #sum(view: DataView, start: number, end: number, [first, second]: [number, number]): [number, number] {
    let s0 = first
    let s1 = second
    for (let at = start; at < end; at += 8) {
      s0 = (s0 + view.getUint32(at, this.littleEndian) + s1) >>> 0
      s1 = (s1 + view.getUint32(at + 4, this.littleEndian) + s0) >>> 0
    }
    return [s0, s1]
  }
}

/** A log's frame as bytes. @throws FormatError when the log became shorter */
export function readFrame(source: ByteSource, frame: Frame, pageSize: number): Uint8Array {
  if (frame.offset + pageSize > source.size) throw new FormatError('truncated', frame.offset, 'frame beyond the log')
  return source.readSync(frame.offset, frame.offset + pageSize)
}
