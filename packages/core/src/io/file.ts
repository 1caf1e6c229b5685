import { closeSync, constants, fstatSync, openSync, readSync, type Stats } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { FormatError, messageOf } from './errors.js'
import { inTime } from './patience.js'
import { type ByteSource, checkRange, RangeSource } from './source.js'

// Without waiting: a pipe in the place of the file must not hold everything up.
const READ_ONLY = constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK

// What a system says where a file is there and cannot be had: a bad sector, no permission, a socket in its place.
const REFUSALS = new Set(['EIO', 'EACCES', 'EPERM', 'ENXIO', 'ENODEV', 'EBUSY', 'ESTALE', 'EOPNOTSUPP'])

/** The same as FormatError('unreadable') where it says that a file, or a piece of it, is there and cannot be had. */
export function asUnreadable(thrown: unknown, at = 0): unknown {
  const { code = '' } = (thrown ?? {}) as NodeJS.ErrnoException
  if (!REFUSALS.has(code)) return thrown
  return new FormatError('unreadable', at, `the system does not give it out: ${messageOf(thrown)}`, { cause: thrown })
}

/**
 * A file on disk, opened read-only and without following a final symbolic link. A disk that stops answering fails a
 * reading after a while (`HangError`); `readSync` alone cannot be cut short.
 */
export class FileSource implements ByteSource {
  readonly #handle: FileHandle
  readonly size: number
  /** Bytes that it takes on its disk: far fewer than its size where most of it is a hole. */
  readonly allocated: number

  private constructor(
    readonly path: string,
    handle: FileHandle,
    { size, blocks }: Stats,
  ) {
    this.#handle = handle
    this.size = size
    // In units of 512 bytes on every system (stat(2)).
    this.allocated = blocks * 512
  }

  /** @throws the system's own error when the file is missing, unreadable or not a regular file */
  static async open(path: string): Promise<FileSource> {
    const handle = await inTime(open(path, READ_ONLY), path, (late) => void late.close())
    try {
      const stat = await inTime(handle.stat(), path)
      if (!stat.isFile()) throw Object.assign(new Error(`not a regular file: ${path}`), { code: 'EINVAL' })
      return new FileSource(path, handle, stat)
    } catch (thrown) {
      await handle.close()
      throw thrown
    }
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    checkRange(start, end, this.size)
    const bytes = unfilled(end - start)
    await this.readInto(bytes, start)
    return bytes
  }

  async readInto(target: Uint8Array, start: number): Promise<void> {
    checkRange(start, start + target.length, this.size)
    for (let done = 0; done < target.length; ) {
      const reading = this.#handle.read(target, done, target.length - done, start + done)
      const { bytesRead } = await inTime(reading, this.path).catch((thrown: unknown) => {
        throw asUnreadable(thrown, start + done)
      })
      if (bytesRead === 0) throw new FormatError('truncated', start + done, 'the file became shorter while it was read')
      done += bytesRead
    }
  }

  readSync(start: number, end: number): Uint8Array {
    checkRange(start, end, this.size)
    const bytes = unfilled(end - start)
    for (let done = 0; done < bytes.length; ) {
      const bytesRead = readPiece(this.#handle.fd, bytes, done, start + done)
      if (bytesRead === 0) throw new FormatError('truncated', start + done, 'the file became shorter while it was read')
      done += bytesRead
    }
    return bytes
  }

  close(): Promise<void> {
    return this.#handle.close()
  }
}

// Bytes. A file may have grown a little since its size was listed; one that exceeds this was made to be too long.
const LEEWAY = 64 << 20

/**
 * A file that is far longer than its list says is read as far as that; `declared` is null where no list tells: then as far
 * as what it takes on its disk. A hole of a terabyte costs nothing to make.
 */
export function withoutHole(file: FileSource, declared: number | null): ByteSource {
  const most = declared ?? file.allocated
  return file.size > 4 * most + LEEWAY ? new RangeSource(file, { start: 0, end: most }) : file
}

/**
 * A file that is read now and then for as long as somebody may ask: between readings it is not held open, so that nobody
 * has to close it. Once `rest` is called, each reading makes sure that it is still the same file.
 */
export class RestingFile implements ByteSource {
  #descriptor: number | undefined
  readonly size: number
  readonly #opened: Stats

  /** @throws the system's own error when the file is missing, unreadable or not a regular file */
  constructor(readonly path: string) {
    this.#descriptor = openSync(path, READ_ONLY)
    this.#opened = fstatSync(this.#descriptor)
    this.size = this.#opened.size
    if (this.#opened.isFile()) return
    this.rest()
    throw Object.assign(new Error(`not a regular file: ${path}`), { code: 'EINVAL' })
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    return this.readSync(start, end)
  }

  /** @throws FormatError where the file cannot be had any more, or became another */
  readSync(start: number, end: number): Uint8Array {
    checkRange(start, end, this.size)
    const descriptor = this.#descriptor ?? this.#again()
    try {
      const bytes = unfilled(end - start)
      for (let done = 0; done < bytes.length; ) {
        const bytesRead = readPiece(descriptor, bytes, done, start + done)
        if (bytesRead === 0)
          throw new FormatError('truncated', start + done, 'the file became shorter while it was read')
        done += bytesRead
      }
      return bytes
    } finally {
      if (descriptor !== this.#descriptor) closeSync(descriptor)
    }
  }

  #again(): number {
    try {
      const descriptor = openSync(this.path, READ_ONLY)
      const { dev, ino, size, mtimeMs } = fstatSync(descriptor)
      const first = this.#opened
      if (dev === first.dev && ino === first.ino && size === first.size && mtimeMs === first.mtimeMs) return descriptor
      closeSync(descriptor)
    } catch (thrown) {
      throw new FormatError('truncated', 0, `the file cannot be opened again: ${(thrown as Error).message}`)
    }
    throw new FormatError('bad-value', 0, 'the file was changed since it was opened')
  }

  /** Lets go of the file until it is read again. */
  rest(): void {
    if (this.#descriptor !== undefined) closeSync(this.#descriptor)
    this.#descriptor = undefined
  }

  async close(): Promise<void> {
    this.rest()
  }
}

/** Reads into the rest of `bytes`, from `done` on. @returns how many bytes came */
function readPiece(descriptor: number, bytes: Uint8Array, done: number, at: number): number {
  try {
    return readSync(descriptor, bytes, done, bytes.length - done, at)
  } catch (thrown) {
    throw asUnreadable(thrown, at)
  }
}

/** Bytes that are about to be filled to the last one. Not a Buffer, whose slices would share its memory. */
const unfilled = (length: number): Uint8Array => new Uint8Array(Buffer.allocUnsafeSlow(length).buffer)
