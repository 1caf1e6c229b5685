import { mkdir, readFile, statfs } from 'node:fs/promises'
import { isDict, type PlistValue, textOf } from '../plist/read.js'
import { BackupFolder } from './backup-folder.js'
import { DeviceError } from './errors.js'
import { BLOCK, blockFrame, nameFrame, numberFrame, type ReceivedFile, receiveFiles } from './file-stream.js'
import { binaryFrame, dictOf, type ListValue, needList } from './lists.js'
import type { Lockdown } from './lockdown.js'
import { type Place, placeOf } from './places.js'
import { StreamReader, send } from './stream.js'

export const BACKUP_SERVICE = 'com.apple.mobilebackup2'
/** Stands for "nothing" where the protocol wants a text. */
export const NOTHING = '___EmptyParameterString___'
const LINK_VERSION = 300
const PROTOCOL_VERSION = 2.1
const MULTI_STATUS = -13
const NO_SUCH_FILE = -6

export interface BackupProgress {
  bytes: number
  /** As the device estimates it; 0: unknown. */
  total: number
  files: number
}

export interface BackupRequest {
  /** The folder that gets a folder named as the device. */
  folder: string
  /** Which files are kept; undefined place: what it is cannot be told from its name. */
  wants: (place: Place | undefined) => boolean
  progress: (now: BackupProgress) => void
  /** A file that the device could not send, with its reason. */
  broken: (file: ReceivedFile) => void
  signal: AbortSignal
}

/**
 * Has the device make a backup and receives of it what is wanted. The device leads: it asks, this side obeys within the
 * folder. Files that are there already are not sent again, so a broken backup goes on.
 * @throws DeviceError
 */
export async function receiveBackup(lockdown: Lockdown, request: BackupRequest): Promise<void> {
  const stream = await lockdown.service(BACKUP_SERVICE)
  const stop = () => stream.destroy()
  request.signal.addEventListener('abort', stop, { once: true })
  try {
    const link = new DeviceLink(new StreamReader(stream, lockdown.mux.silenceMs))
    await link.greet()
    await link.process({
      MessageName: 'Backup',
      TargetIdentifier: lockdown.device.udid,
      SourceIdentifier: lockdown.device.udid,
    })
    await new BackupHost(link, request).serve()
  } finally {
    request.signal.removeEventListener('abort', stop)
    stop()
  }
}

/** Messages of the link: lists whose first element is their name. */
class DeviceLink {
  constructor(readonly reader: StreamReader) {}

  send(...message: ListValue[]): Promise<void> {
    return send(this.reader.stream, binaryFrame(message))
  }

  process(message: { [key: string]: ListValue }): Promise<void> {
    return this.send('DLMessageProcessMessage', message)
  }

  async receive(): Promise<{ name: string; rest: PlistValue[] }> {
    const message = await needList(this.reader)
    const [name, ...rest] = Array.isArray(message) ? message : []
    if (typeof name !== 'string') throw new DeviceError('garbled')
    return { name, rest }
  }

  /** Agrees on versions. */
  async greet(): Promise<void> {
    const { name } = await this.receive()
    if (name !== 'DLMessageVersionExchange') throw new DeviceError('garbled')
    await this.send('DLMessageVersionExchange', 'DLVersionsOk', LINK_VERSION)
    const ready = await this.receive()
    if (ready.name !== 'DLMessageDeviceReady') throw new DeviceError('garbled')
    await this.process({ MessageName: 'Hello', SupportedProtocolVersions: [PROTOCOL_VERSION] })
    const [hello] = (await this.receive()).rest
    if (!isDict(hello) || hello.ErrorCode !== 0) throw new DeviceError('no-service')
  }
}

type Handler = (host: BackupHost, args: PlistValue[]) => Promise<void>

class BackupHost {
  readonly folder: BackupFolder
  readonly now: BackupProgress = { bytes: 0, total: 0, files: 0 }

  constructor(
    readonly link: DeviceLink,
    readonly request: BackupRequest,
  ) {
    this.folder = new BackupFolder(request.folder)
  }

  /** Obeys until the device says that it is done. */
  async serve(): Promise<void> {
    for (;;) {
      const { name, rest } = await this.link.receive()
      if (name === 'DLMessageProcessMessage') return this.#end(rest[0])
      const handler = HANDLERS[name]
      if (!handler) throw new DeviceError('garbled', `The device asked for something unknown (${name}).`)
      await handler(this, rest)
    }
  }

  status(code: number, extra: ListValue = NOTHING): Promise<void> {
    return this.link.send('DLMessageStatusResponse', code, code === 0 ? NOTHING : 'Multi status', extra)
  }

  async #end(response: PlistValue | undefined): Promise<void> {
    const { ErrorCode, ErrorDescription } = isDict(response) ? response : {}
    await this.link.send('DLMessageDisconnect', NOTHING).catch(() => {})
    if (ErrorCode === 0) return
    if (ErrorCode === 105) throw new DeviceError('no-space')
    if (ErrorCode === 208) throw new DeviceError('locked')
    const why = textOf(ErrorDescription) ?? `code ${ErrorCode}`
    throw new DeviceError('refused', `The device ended the backup: ${why}. What was received is kept.`)
  }
}

/** What the device may ask. Each is answered by a status. */
const HANDLERS: Readonly<Record<string, Handler>> = Object.freeze({
  DLMessageGetFreeDiskSpace: async (host) => host.status(0, await freeSpace(host.request.folder)),
  DLContentsOfDirectory: async (host, [path]) => host.status(0, await contents(host.folder, requireText(path))),
  DLMessageCreateDirectory: async (host, [path]) => {
    await host.folder.makeFolder(requireText(path))
    await host.status(0)
  },
  DLMessageMoveItems: async (host, [moves]) => {
    for (const [from, to] of Object.entries(dictOf(moves ?? null))) await host.folder.move(from, requireText(to))
    await host.status(0)
  },
  DLMessageMoveFiles: (host, args) => (HANDLERS.DLMessageMoveItems as Handler)(host, args),
  DLMessageRemoveItems: async (host, [paths]) => {
    for (const path of Array.isArray(paths) ? paths : []) await host.folder.remove(requireText(path))
    await host.status(0)
  },
  DLMessageRemoveFiles: (host, args) => (HANDLERS.DLMessageRemoveItems as Handler)(host, args),
  DLMessageDownloadFiles: async (host, [paths]) => {
    const missing = await sendFiles(host, Array.isArray(paths) ? paths.map(requireText) : [])
    await host.status(Object.keys(missing).length > 0 ? MULTI_STATUS : 0, missing)
  },
  DLMessageUploadFiles: async (host, [, , total]) => {
    if (typeof total === 'number' && total > 0) host.now.total = total
    await receiveFiles(
      host.link.reader,
      host.folder,
      (file) => isList(file.path) || host.request.wants(placeOf(file.devicePath, file.path.split('/').at(-1) ?? '')),
      (file, bytes) => {
        host.now.bytes += bytes
        if (bytes === 0) host.now.files++
        if (bytes === 0 && file.error !== null) host.request.broken(file)
        host.request.progress(host.now)
      },
    )
    await host.status(0)
  },
})

/** The lists of a backup are always kept: everything else is found by them. */
const isList = (path: string) => /\.(plist|db|mbdb)$/.test(path)

async function sendFiles(host: BackupHost, paths: string[]): Promise<{ [path: string]: ListValue }> {
  const missing: { [path: string]: ListValue } = {}
  const { stream } = host.link.reader
  for (const path of paths) {
    await send(stream, nameFrame(path))
    const bytes = await readFile(host.folder.resolve(path)).catch(() => undefined)
    if (bytes) {
      await send(stream, blockFrame(BLOCK.data, bytes))
      await send(stream, blockFrame(BLOCK.done))
    } else {
      missing[path] = { DLFileErrorCode: NO_SUCH_FILE, DLFileErrorString: 'No such file' }
      await send(stream, blockFrame(BLOCK.hostError, Buffer.from('No such file')))
    }
  }
  await send(stream, numberFrame(0))
  return missing
}

async function contents(folder: BackupFolder, path: string): Promise<{ [name: string]: ListValue }> {
  const children = await folder.list(path)
  return Object.fromEntries(
    children.map(({ name, directory, size, modifiedAt }) => [
      name,
      {
        DLFileType: directory ? 'DLFileTypeDirectory' : 'DLFileTypeRegular',
        DLFileSize: size,
        DLFileModificationDate: modifiedAt,
      },
    ]),
  )
}

async function freeSpace(folder: string): Promise<number> {
  await mkdir(folder, { recursive: true })
  const { bavail, bsize } = await statfs(folder)
  return bavail * bsize
}

function requireText(value: PlistValue | undefined): string {
  if (typeof value !== 'string') throw new DeviceError('garbled')
  return value
}
