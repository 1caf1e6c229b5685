import type { BackupFolder, IncomingFile } from './backup-folder.js'
import { DeviceError } from './errors.js'
import type { StreamReader } from './stream.js'

/** Codes of the blocks in which files travel. */
export const BLOCK = { done: 0x00, hostError: 0x06, deviceError: 0x0b, data: 0x0c } as const

// Paths on a device are at most 1,024 bytes; blocks come in some tens of kilobytes.
const MOST_NAME = 4096
const MOST_BLOCK = 64 << 20

export interface ReceivedFile {
  devicePath: string
  /** Where it stands in the backup's folder. */
  path: string
  bytes: number
  /** Why the device could not send it; null: it is whole. */
  error: string | null
}

/**
 * Receives the files of one upload request, in order, until the stream's end. Whole ones take their name, broken ones
 * leave nothing. `wants` says which are kept; the others pass by.
 */
export async function receiveFiles(
  reader: StreamReader,
  folder: BackupFolder,
  wants: (file: Pick<ReceivedFile, 'devicePath' | 'path'>) => boolean,
  told: (file: ReceivedFile, bytes: number) => void | Promise<void>,
): Promise<void> {
  for (;;) {
    const devicePath = await name(reader)
    if (devicePath === '') return
    const file: ReceivedFile = { devicePath, path: await name(reader), bytes: 0, error: null }
    const target = wants(file) ? await folder.write(file.path) : undefined
    try {
      await receiveBlocks(reader, file, target, told)
    } catch (thrown) {
      await target?.discard()
      throw thrown
    }
    await (file.error === null ? target?.keep() : target?.discard())
    await told(file, 0)
  }
}

async function receiveBlocks(
  reader: StreamReader,
  file: ReceivedFile,
  target: IncomingFile | undefined,
  told: (file: ReceivedFile, bytes: number) => void | Promise<void>,
): Promise<void> {
  for (;;) {
    const size = await number(reader)
    if (size < 1 || size > MOST_BLOCK) throw new DeviceError('garbled')
    const [code] = await reader.need(1)
    const bytes = await reader.need(size - 1)
    if (code === BLOCK.done) return
    if (code === BLOCK.deviceError) {
      file.error = Buffer.from(bytes).toString('utf8') || 'the device could not read it'
      return
    }
    if (code !== BLOCK.data) throw new DeviceError('garbled')
    file.bytes += bytes.byteLength
    await target?.add(bytes)
    await told(file, bytes.byteLength)
  }
}

async function name(reader: StreamReader): Promise<string> {
  const size = await number(reader)
  if (size > MOST_NAME) throw new DeviceError('garbled')
  return Buffer.from(await reader.need(size)).toString('utf8')
}

async function number(reader: StreamReader): Promise<number> {
  const bytes = await reader.need(4)
  return new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0)
}

/** A number as it stands before names and blocks: 32 bits, big-endian. */
export function numberFrame(value: number): Uint8Array {
  const frame = Buffer.alloc(4)
  frame.writeUInt32BE(value, 0)
  return frame
}

/** A name behind its length. */
export const nameFrame = (value: string): Uint8Array => {
  const bytes = Buffer.from(value, 'utf8')
  return Buffer.concat([numberFrame(bytes.byteLength), bytes])
}

/** A block: length, code, bytes. */
export const blockFrame = (code: number, bytes: Uint8Array = new Uint8Array(0)): Uint8Array =>
  Buffer.concat([numberFrame(bytes.byteLength + 1), Uint8Array.of(code), bytes])
