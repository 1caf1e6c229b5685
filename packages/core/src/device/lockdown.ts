import type { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { type PlistValue, textOf } from '../plist/read.js'
import { DeviceError, namedError } from './errors.js'
import { type Dict, type ListValue, needDict, xmlFrame } from './lists.js'
import type { Attached, Multiplexer } from './multiplexer.js'
import { findPairRecord, type PairRecord } from './pair-record.js'
import { StreamReader, send } from './stream.js'
import { secured } from './tls.js'

const LOCKDOWN_PORT = 62078

/** The device's front door: what it says of itself, the secured session, and the way to its services. */
export class Lockdown {
  #reader: StreamReader
  #record: PairRecord | undefined

  private constructor(
    readonly mux: Multiplexer,
    readonly device: Attached,
    socket: Socket,
    readonly osVersion: string | null,
  ) {
    this.#reader = new StreamReader(socket, mux.silenceMs)
  }

  /** Opens the front door; what may be said without a session can be asked then. @throws DeviceError */
  static async open(mux: Multiplexer, device: Attached): Promise<Lockdown> {
    const first = new Lockdown(mux, device, await mux.connect(device, LOCKDOWN_PORT), null)
    try {
      await first.request('QueryType')
      const version = textOf(await first.value('ProductVersion'))
      return new Lockdown(mux, device, first.#reader.stream as Socket, version)
    } catch (thrown) {
      first.close()
      throw thrown
    }
  }

  /** Opens the front door and a secured session behind it. @throws DeviceError('not-trusted') without a pairing */
  static async session(mux: Multiplexer, device: Attached): Promise<Lockdown> {
    const lockdown = await Lockdown.open(mux, device)
    try {
      await lockdown.startSession()
      return lockdown
    } catch (thrown) {
      lockdown.close()
      throw thrown
    }
  }

  /** One question and its answer. @throws DeviceError where the device names an error or answers something else */
  async request(name: string, more: { [key: string]: ListValue } = {}): Promise<Dict> {
    await send(this.#reader.stream, xmlFrame({ Label: 'lumbrin', Request: name, ...more }))
    const answer = await needDict(this.#reader)
    const error = textOf(answer.Error)
    if (error) throw namedError(error)
    if (answer.Request !== name) throw new DeviceError('garbled')
    return answer
  }

  /** One value of the device; null: it has none, or does not tell it without a session. */
  async value(key: string, domain?: string): Promise<PlistValue> {
    const where = domain ? { Domain: domain } : {}
    try {
      return (await this.request('GetValue', { Key: key, ...where })).Value ?? null
    } catch (thrown) {
      if (thrown instanceof DeviceError && thrown.code === 'refused') return null
      throw thrown
    }
  }

  async startSession(): Promise<void> {
    const record = await findPairRecord(this.mux, this.device.udid)
    if (!record) throw new DeviceError('not-trusted')
    const { EnableSessionSSL } = await this.request('StartSession', {
      HostID: record.hostId,
      SystemBUID: record.systemId,
    })
    this.#record = record
    if (EnableSessionSSL === true) {
      const stream = await secured(this.#reader.stream as Socket, record, this.osVersion)
      this.#reader = new StreamReader(stream, this.mux.silenceMs)
    }
  }

  /** A connection to a service. The escrow bag opens those that a locked device would refuse. */
  async service(name: string): Promise<Duplex> {
    const record = this.#record
    if (!record) throw new DeviceError('not-trusted')
    const escrow = record.escrowBag ? { EscrowBag: Buffer.from(record.escrowBag) } : {}
    const { Port, EnableServiceSSL } = await this.request('StartService', { Service: name, ...escrow })
    if (typeof Port !== 'number') throw new DeviceError('garbled')
    const socket = await this.mux.connect(this.device, Port)
    return EnableServiceSSL === true ? secured(socket, record, this.osVersion) : socket
  }

  close(): void {
    this.#reader.stream.destroy()
  }
}
