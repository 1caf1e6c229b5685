import { constants, readSync } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { FormatError } from './errors.js'
import { type ByteSource, checkRange } from './source.js'

/** A file on disk, opened read-only and without following a final symbolic link. */
export class FileSource implements ByteSource {
  readonly #handle: FileHandle
  readonly size: number

  private constructor(handle: FileHandle, size: number) {
    this.#handle = handle
    this.size = size
  }

  /** @throws the system's own error when the file is missing, unreadable or not a regular file */
  static async open(path: string): Promise<FileSource> {
    const handle = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW)
    const stat = await handle.stat()
    if (!stat.isFile()) {
      await handle.close()
      throw Object.assign(new Error(`not a regular file: ${path}`), { code: 'EINVAL' })
    }
    return new FileSource(handle, stat.size)
  }

  async read(start: number, end: number): Promise<Uint8Array> {
    checkRange(start, end, this.size)
    const bytes = unfilled(end - start)
    for (let done = 0; done < bytes.length; ) {
      const { bytesRead } = await this.#handle.read(bytes, done, bytes.length - done, start + done)
      if (bytesRead === 0) throw new FormatError('truncated', start + done, 'the file became shorter while it was read')
      done += bytesRead
    }
    return bytes
  }

  readSync(start: number, end: number): Uint8Array {
    checkRange(start, end, this.size)
    const bytes = unfilled(end - start)
    for (let done = 0; done < bytes.length; ) {
      const bytesRead = readSync(this.#handle.fd, bytes, done, bytes.length - done, start + done)
      if (bytesRead === 0) throw new FormatError('truncated', start + done, 'the file became shorter while it was read')
      done += bytesRead
    }
    return bytes
  }

  close(): Promise<void> {
    return this.#handle.close()
  }
}

/** Bytes that are about to be filled to the last one. Not a Buffer, whose slices would share its memory. */
const unfilled = (length: number): Uint8Array => new Uint8Array(Buffer.allocUnsafeSlow(length).buffer)
