import type { Duplex } from 'node:stream'
import { BLOCK, blockFrame, nameFrame, numberFrame } from '@lumbrin/core/device/file-stream'
import { binaryFrame, type Dict, type ListValue, needList } from '@lumbrin/core/device/lists'
import { devicePathOf } from '@lumbrin/core/device/places'
import { StreamReader } from '@lumbrin/core/device/stream'
import { isDict, type PlistValue } from '@lumbrin/core/plist/read'
import { buildBinary } from 'plist'
import type { StandInDevice } from './device.js'
import type { DeviceFile } from './files.js'

const PATIENCE_MS = 600_000
const LINK_VERSION = 300
const PROTOCOL_VERSION = 2.1
const FILES_AT_ONCE = 100
const BLOCK_BYTES = 128 << 10
const LOCKED = 208

/** The backup service of a made-up device: it asks, the host obeys. */
export async function serveBackup(device: StandInDevice, stream: Duplex): Promise<void> {
  const service = new BackupService(device, stream)
  await service.send('DLMessageVersionExchange', LINK_VERSION, 0)
  await service.receive('DLMessageVersionExchange')
  await service.send('DLMessageDeviceReady')
  for (;;) {
    const request = await service.next()
    if (!request) return void stream.end()
    if (request.MessageName === 'Hello') await service.respond(0, { ProtocolVersion: PROTOCOL_VERSION })
    else if (request.MessageName === 'Backup')
      await service.backUp(isDict(request.Options) && request.Options.ForceFullBackup === true)
    else await service.respond(1, { ErrorDescription: `This stand-in does not do ${request.MessageName}` })
  }
}

class BackupService {
  readonly #reader: StreamReader

  constructor(
    readonly device: StandInDevice,
    readonly stream: Duplex,
  ) {
    this.#reader = new StreamReader(stream, PATIENCE_MS)
  }

  send(...message: ListValue[]): Promise<void> {
    return this.device.send(this.stream, binaryFrame(message))
  }

  respond(code: number, more: { [key: string]: ListValue } = {}): Promise<void> {
    return this.send('DLMessageProcessMessage', { MessageName: 'Response', ErrorCode: code, ...more })
  }

  async receive(name: string): Promise<PlistValue[]> {
    const message = await needList(this.#reader)
    if (!Array.isArray(message) || message[0] !== name) throw new Error(`${name} was expected`)
    return message.slice(1)
  }

  /** The host's next request; undefined: it says goodbye. */
  async next(): Promise<Dict | undefined> {
    const message = await needList(this.#reader)
    const [name, request] = Array.isArray(message) ? message : []
    return name === 'DLMessageProcessMessage' && isDict(request) ? request : undefined
  }

  /** Asks the host for something and gives what it adds to its answer. */
  async #ask(...question: ListValue[]): Promise<PlistValue | undefined> {
    await this.send(...question)
    return (await this.receive('DLMessageStatusResponse'))[2]
  }

  /** A whole run: lists of the last one, state, files that the host lacks, new lists. */
  async backUp(full: boolean): Promise<void> {
    const { udid } = this.device.identity
    await this.#download([`${udid}/Status.plist`, `${udid}/Info.plist`])
    await this.#ask('DLMessageGetFreeDiskSpace')
    await this.#ask('DLMessageCreateDirectory', udid)
    await this.#ask('DLMessageCreateDirectory', `${udid}/Snapshot`)
    await this.#uploadLists(new Map([['Snapshot/Status.plist', this.#status('uploading')]]))
    const files = await this.#lacking(full)
    const total = files.reduce((sum, file) => sum + file.size, 0)
    for (let at = 0; at < files.length; at += FILES_AT_ONCE) {
      if (this.device.switches.locked) return this.respond(LOCKED, { ErrorDescription: 'Device locked' })
      await this.#uploadFiles(files.slice(at, at + FILES_AT_ONCE), (100 * at) / files.length, total)
    }
    const lists = await this.device.files.lists()
    lists.set('Status.plist', this.#status('finished'))
    await this.#uploadLists(new Map([...lists].map(([name, bytes]) => [`Snapshot/${name}`, bytes])))
    const moves = Object.fromEntries([...lists.keys()].map((name) => [`${udid}/Snapshot/${name}`, `${udid}/${name}`]))
    await this.#ask('DLMessageMoveItems', moves, 100)
    await this.#ask('DLMessageRemoveItems', [`${udid}/Snapshot`], 100)
    await this.respond(0)
  }

  #status(state: string): Uint8Array {
    return buildBinary({
      SnapshotState: state,
      BackupState: 'new',
      IsFullBackup: true,
      Date: new Date(),
      UUID: this.device.identity.udid.toUpperCase(),
      Version: '3.3',
    })
  }

  /** Files that the host does not hold, or holds as they were before they changed. */
  async #lacking(full: boolean): Promise<DeviceFile[]> {
    const all = [...this.device.files.files()]
    if (full) return all
    const held = new Map<string, Dict>()
    for (const shelf of new Set(all.map(({ id }) => id.slice(0, 2)))) {
      const children = await this.#ask('DLContentsOfDirectory', `${this.device.identity.udid}/${shelf}`)
      for (const [name, child] of Object.entries(isDict(children) ? children : {}))
        if (isDict(child)) held.set(name, child)
    }
    const lacking: DeviceFile[] = []
    for (const file of all) {
      const copy = held.get(file.id)
      const since = copy?.DLFileModificationDate
      const same =
        copy?.DLFileSize === file.size && since instanceof Date && since >= (await this.device.files.changedAt(file))
      if (!same) lacking.push(file)
    }
    return lacking
  }

  async #download(paths: string[]): Promise<void> {
    await this.send('DLMessageDownloadFiles', paths, {}, 0)
    for (;;) {
      const name = await this.#number()
      if (name === 0) break
      await this.#reader.need(name)
      for (let code = -1; code !== BLOCK.done && code !== BLOCK.hostError; ) {
        const size = await this.#number()
        code = (await this.#reader.need(1))[0] as number
        await this.#reader.need(size - 1)
      }
    }
    await this.receive('DLMessageStatusResponse')
  }

  async #number(): Promise<number> {
    return Buffer.from(await this.#reader.need(4)).readUInt32BE(0)
  }

  async #uploadLists(lists: Map<string, Uint8Array>): Promise<void> {
    await this.send('DLMessageUploadFiles', {}, 0, 0)
    for (const [name, bytes] of lists) {
      await this.#names(`/var/backup/${name}`, name)
      await this.device.send(this.stream, blockFrame(BLOCK.data, bytes))
      await this.device.send(this.stream, blockFrame(BLOCK.done))
    }
    await this.device.send(this.stream, numberFrame(0))
    await this.receive('DLMessageStatusResponse')
  }

  async #uploadFiles(files: DeviceFile[], progress: number, total: number): Promise<void> {
    const { udid } = this.device.identity
    for (const shelf of new Set(files.map(({ id }) => id.slice(0, 2))))
      await this.#ask('DLMessageCreateDirectory', `${udid}/${shelf}`)
    await this.send('DLMessageUploadFiles', {}, progress, total)
    for (const file of files) {
      await this.#names(devicePathOf(file), `${file.id.slice(0, 2)}/${file.id}`)
      for await (const piece of this.device.files.content(file))
        for (let at = 0; at < piece.byteLength; at += BLOCK_BYTES)
          await this.device.send(this.stream, blockFrame(BLOCK.data, piece.subarray(at, at + BLOCK_BYTES)))
      await this.device.send(this.stream, blockFrame(BLOCK.done))
    }
    await this.device.send(this.stream, numberFrame(0))
    await this.receive('DLMessageStatusResponse')
  }

  async #names(devicePath: string, path: string): Promise<void> {
    await this.device.send(this.stream, nameFrame(devicePath))
    await this.device.send(this.stream, nameFrame(`${this.device.identity.udid}/${path}`))
  }
}
