import { createServer, type ListenOptions, type Server, type Socket } from 'node:net'
import { type Dict, dictOf, type ListValue, listOfSize } from '@lumbrin/core/device/lists'
import { muxFrame } from '@lumbrin/core/device/multiplexer'
import { StreamReader } from '@lumbrin/core/device/stream'
import type { StandInDevice } from './device.js'
import { answerLockdown } from './lockdown.js'

const HEADER_SIZE = 16
const RESULT = { ok: 0, badCommand: 1, noDevice: 2, refused: 3, badVersion: 6, noRecord: 22 } as const
const USB_SPEED = 480_000_000
// Clients may listen for hours without a word.
const NO_LIMIT = 2 ** 31 - 1

/** The multiplexer behind which made-up devices stand: one address, many devices. */
export class StandInMultiplexer {
  readonly #devices = new Map<number, StandInDevice>()
  readonly #listeners = new Set<Socket>()
  readonly #records = new Map<string, Uint8Array>()
  readonly #sockets = new Set<Socket>()
  readonly #server: Server
  #nextId = 1

  constructor(readonly systemId = '0A4C5E11-7B32-4D56-9F10-22B3C4D5E6F7') {
    this.#server = createServer((socket) => {
      this.#sockets.add(socket)
      socket.setNoDelay(true)
      socket.on('error', () => {})
      socket.on('close', () => {
        this.#sockets.delete(socket)
        this.#listeners.delete(socket)
      })
      this.#serve(socket).catch(() => socket.destroy())
    })
  }

  listen(where: ListenOptions): Promise<void> {
    return new Promise((go, fail) => {
      this.#server.once('error', fail)
      this.#server.listen(where, go)
    })
  }

  /** The port, where it listens on one. */
  get port(): number {
    const address = this.#server.address()
    return typeof address === 'object' && address ? address.port : 0
  }

  async close(): Promise<void> {
    for (const device of this.#devices.values()) device.dropAll()
    for (const socket of this.#sockets) socket.destroy()
    await new Promise((go) => this.#server.close(go))
  }

  /** Puts a device on the cable. Each time it comes back it has another number. */
  add(device: StandInDevice): void {
    let id = this.#nextId++
    this.#devices.set(id, device)
    if (device.visible) this.#tell(attached(id, device))
    device.on('changed', () => {
      this.#tell({ MessageType: 'Detached', DeviceID: id })
      this.#devices.delete(id)
      id = this.#nextId++
      this.#devices.set(id, device)
      if (device.visible) this.#tell(attached(id, device))
    })
  }

  #visible(): [number, StandInDevice][] {
    return [...this.#devices].filter(([, device]) => device.visible)
  }

  #tell(event: { [key: string]: ListValue }): void {
    for (const socket of this.#listeners) socket.write(muxFrame(event, 0))
  }

  async #serve(socket: Socket): Promise<void> {
    const reader = new StreamReader(socket, NO_LIMIT)
    for (;;) {
      const header = await reader.take(HEADER_SIZE)
      if (!header) return
      const view = new DataView(header.buffer, header.byteOffset, HEADER_SIZE)
      const size = view.getUint32(0, true) - HEADER_SIZE
      const tag = view.getUint32(12, true)
      if (view.getUint32(4, true) !== 1) return void socket.end(badVersion(tag))
      const question = dictOf(await listOfSize(reader, size))
      const given = this.#answer(question, socket, tag)
      if (given === 'handed-over') return
      socket.write(muxFrame(given, tag))
      if (question.MessageType === 'Listen') {
        this.#listeners.add(socket)
        for (const [id, device] of this.#visible()) socket.write(muxFrame(attached(id, device), 0))
      }
    }
  }

  #answer(question: Dict, socket: Socket, tag: number): { [key: string]: ListValue } | 'handed-over' {
    switch (question.MessageType) {
      case 'ListDevices':
        return { DeviceList: this.#visible().map(([id, device]) => attached(id, device)) }
      case 'Listen':
        return result(RESULT.ok)
      case 'ListListeners':
        return { ListenerList: [] }
      case 'ReadBUID':
        return { BUID: this.systemId }
      case 'ReadPairRecord': {
        const record = this.#records.get(String(question.PairRecordID))
        return record ? { PairRecordData: Buffer.from(record) } : result(RESULT.noRecord)
      }
      case 'SavePairRecord':
        if (!(question.PairRecordData instanceof Uint8Array)) return result(RESULT.badCommand)
        this.#records.set(String(question.PairRecordID), question.PairRecordData)
        this.#tell({ MessageType: 'Paired', DeviceID: Number(question.DeviceID ?? 0) })
        return result(RESULT.ok)
      case 'DeletePairRecord':
        return result(this.#records.delete(String(question.PairRecordID)) ? RESULT.ok : RESULT.noDevice)
      case 'Connect':
        return this.#connect(question, socket, tag)
      default:
        return result(RESULT.badCommand)
    }
  }

  #connect({ DeviceID, PortNumber }: Dict, socket: Socket, tag: number): { [key: string]: ListValue } | 'handed-over' {
    const device = this.#devices.get(Number(DeviceID))
    if (!device?.visible) return result(RESULT.noDevice)
    if (typeof PortNumber !== 'number') return result(RESULT.badCommand)
    const port = ((PortNumber & 0xff) << 8) | (PortNumber >> 8)
    if (!device.listens(port)) return result(RESULT.refused)
    // The answer goes first: from there on the connection is the device's.
    socket.write(muxFrame(result(RESULT.ok), tag))
    device.accept(port, socket, (stream) => answerLockdown(device, stream))
    return 'handed-over'
  }
}

const result = (number: number) => ({ MessageType: 'Result', Number: number })

const attached = (id: number, { identity }: StandInDevice) => ({
  MessageType: 'Attached',
  DeviceID: id,
  Properties: {
    ConnectionType: 'USB',
    ConnectionSpeed: USB_SPEED,
    DeviceID: id,
    LocationID: id << 16,
    ProductID: identity.productType.startsWith('iPad') ? 0x12ab : 0x12a8,
    SerialNumber: identity.udid,
  },
})

/** In the old binary form: size, version 0, message 1, tag, number. */
function badVersion(tag: number): Uint8Array {
  const answer = Buffer.alloc(20)
  for (const [index, word] of [20, 0, 1, tag, RESULT.badVersion].entries()) answer.writeUInt32LE(word, index * 4)
  return answer
}
