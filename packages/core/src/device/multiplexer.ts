import { connect as connectSocket, type NetConnectOpts, type Socket } from 'node:net'
import { build } from 'plist'
import { textOf } from '../plist/read.js'
import { DeviceError } from './errors.js'
import { type Dict, dictOf, type ListValue, listOfSize } from './lists.js'
import { SILENCE_MS, StreamReader, send } from './stream.js'

/** A device as the multiplexer names it. */
export interface Attached {
  /** Its number at the multiplexer, a new one each time it is plugged in. */
  deviceId: number
  udid: string
}

export type MuxEvent =
  | { kind: 'attached'; device: Attached }
  | { kind: 'detached'; deviceId: number }
  | { kind: 'paired' }

const HEADER_SIZE = 16
const VERSION = 1
const MESSAGE_LIST = 8
const RESULT = { ok: 0, badCommand: 1, noDevice: 2, refused: 3 } as const

/**
 * Where the multiplexer listens, by the variable that general tools honour too: `UNIX:<path>` or `host:port`; without
 * it the usual place of the system.
 */
export function multiplexerAddress(setting = process.env.USBMUXD_SOCKET_ADDRESS): NetConnectOpts {
  if (setting?.startsWith('UNIX:')) return { path: setting.slice(5) }
  const [, host, port] = /^(.+):(\d+)$/.exec(setting ?? '') ?? []
  if (host && port) return { host, port: Number(port) }
  return process.platform === 'win32' ? { host: '127.0.0.1', port: 27015 } : { path: '/var/run/usbmuxd' }
}

/** The multiplexer's client: which devices are there, their pair records, and connections to their ports. */
export class Multiplexer {
  constructor(
    readonly address: NetConnectOpts = multiplexerAddress(),
    readonly silenceMs = SILENCE_MS,
  ) {}

  /** Devices that are attached now. @throws DeviceError('no-multiplexer') */
  async devices(): Promise<Attached[]> {
    const { DeviceList } = await this.#ask({ MessageType: 'ListDevices' })
    return Array.isArray(DeviceList) ? DeviceList.flatMap((one) => attachedOf(dictOf(one)) ?? []) : []
  }

  /** Tells of devices that come and go, beginning with those that are there, until the signal. */
  async *events(signal: AbortSignal): AsyncGenerator<MuxEvent> {
    // Nothing may happen for hours here: silence is no fault.
    const reader = new StreamReader(await this.#open(), 2 ** 31 - 1)
    const stop = () => reader.stream.destroy()
    signal.addEventListener('abort', stop, { once: true })
    try {
      await send(reader.stream, request({ MessageType: 'Listen' }))
      requireOk(await answer(reader))
      for (;;) {
        const header = await reader.take(HEADER_SIZE)
        if (!header) return
        const event = eventOf(await body(reader, header))
        if (event) yield event
      }
    } catch (thrown) {
      if (!signal.aborted) throw thrown
    } finally {
      signal.removeEventListener('abort', stop)
      stop()
    }
  }

  /** The id of this computer's multiplexer, part of every pairing. */
  async systemId(): Promise<string> {
    const id = textOf((await this.#ask({ MessageType: 'ReadBUID' })).BUID)
    if (!id) throw new DeviceError('garbled')
    return id
  }

  /** What this computer keeps of a pairing, as it was saved; undefined: there is none. */
  async pairRecord(udid: string): Promise<Uint8Array | undefined> {
    const { PairRecordData } = await this.#ask({ MessageType: 'ReadPairRecord', PairRecordID: udid })
    return PairRecordData instanceof Uint8Array ? PairRecordData : undefined
  }

  async savePairRecord({ udid, deviceId }: Attached, record: Uint8Array): Promise<void> {
    const named = { PairRecordID: udid, DeviceID: deviceId }
    requireOk(await this.#ask({ MessageType: 'SavePairRecord', ...named, PairRecordData: Buffer.from(record) }))
  }

  async deletePairRecord(udid: string): Promise<void> {
    await this.#ask({ MessageType: 'DeletePairRecord', PairRecordID: udid })
  }

  /** A connection to a port of a device. @throws DeviceError 'unplugged', or 'no-service' where nothing listens there */
  async connect({ deviceId }: Attached, port: number): Promise<Socket> {
    const socket = await this.#open()
    try {
      const swapped = ((port & 0xff) << 8) | (port >> 8)
      const reader = new StreamReader(socket, this.silenceMs)
      await send(socket, request({ MessageType: 'Connect', DeviceID: deviceId, PortNumber: swapped }))
      const { Number: result } = await answer(reader)
      if (result === RESULT.noDevice) throw new DeviceError('unplugged')
      if (result !== RESULT.ok) throw new DeviceError('no-service')
      return socket
    } catch (thrown) {
      socket.destroy()
      throw thrown
    }
  }

  async #ask(question: { [key: string]: ListValue }): Promise<Dict> {
    const socket = await this.#open()
    try {
      await send(socket, request(question))
      return await answer(new StreamReader(socket, this.silenceMs))
    } finally {
      socket.destroy()
    }
  }

  #open(): Promise<Socket> {
    return new Promise((go, fail) => {
      const socket = connectSocket(this.address)
      const refused = (cause: Error) => fail(new DeviceError('no-multiplexer', undefined, { cause }))
      socket.once('error', refused)
      socket.once('connect', () => {
        socket.off('error', refused)
        // Questions are small: waiting to fill a packet would cost some 40 ms each time.
        socket.setNoDelay(true)
        // Who reads learns of it there; nobody reading must not end the program.
        socket.on('error', () => {})
        go(socket)
      })
    })
  }
}

function request(question: { [key: string]: ListValue }): Uint8Array {
  const named = { ...question, ClientVersionString: 'lumbrin', ProgName: 'lumbrin', kLibUSBMuxVersion: 3 }
  return muxFrame(named, 1)
}

/** A list behind the multiplexer's header: length, version, kind and tag in 32 bits each, little-endian. */
export function muxFrame(value: ListValue, tag: number): Uint8Array {
  const list = Buffer.from(build(value))
  const frame = Buffer.alloc(HEADER_SIZE + list.byteLength)
  for (const [index, word] of [frame.byteLength, VERSION, MESSAGE_LIST, tag].entries())
    frame.writeUInt32LE(word, index * 4)
  frame.set(list, HEADER_SIZE)
  return frame
}

async function answer(reader: StreamReader): Promise<Dict> {
  return body(reader, await reader.need(HEADER_SIZE))
}

async function body(reader: StreamReader, header: Uint8Array): Promise<Dict> {
  const view = new DataView(header.buffer, header.byteOffset, HEADER_SIZE)
  const size = view.getUint32(0, true) - HEADER_SIZE
  if (size < 0 || view.getUint32(8, true) !== MESSAGE_LIST) throw new DeviceError('garbled')
  return dictOf(await listOfSize(reader, size))
}

function requireOk({ Number: result }: Dict): void {
  if (result !== RESULT.ok) throw new DeviceError('refused', `The multiplexer refused this request (${result}).`)
}

function attachedOf({ DeviceID, Properties }: Dict): Attached | undefined {
  const udid = Properties && textOf(dictOf(Properties).SerialNumber)
  return typeof DeviceID === 'number' && udid ? { deviceId: DeviceID, udid } : undefined
}

function eventOf(event: Dict): MuxEvent | undefined {
  const device = event.MessageType === 'Attached' ? attachedOf(event) : undefined
  if (device) return { kind: 'attached', device }
  if (event.MessageType === 'Detached' && typeof event.DeviceID === 'number')
    return { kind: 'detached', deviceId: event.DeviceID }
  return event.MessageType === 'Paired' ? { kind: 'paired' } : undefined
}
