import { createPublicKey, generateKeyPairSync, type KeyObject, X509Certificate } from 'node:crypto'
import { EventEmitter } from 'node:events'
import type { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { setTimeout as sleep } from 'node:timers/promises'
import { TLSSocket } from 'node:tls'
import type { DeviceFiles } from './files.js'

/** What a made-up device says it is. */
export interface Identity {
  udid: string
  name: string
  productType: string
  osVersion: string
  capacity: number
}

/** The switches of a made-up device. */
export interface Switches {
  plugged: boolean
  /** `stuck`: at start-up, so that nobody answers; `recovery`: gone from the multiplexer. */
  mode: 'normal' | 'stuck' | 'recovery'
  /** Its system is damaged: it gets stuck whenever it starts, until the system is installed anew. */
  broken: boolean
  locked: boolean
  /** What the owner answers to the question of trust. */
  trust: 'asking' | 'yes' | 'no'
  erased: boolean
  theftLock: boolean
  flightMode: boolean
  /** Bytes a second; 0: as fast as it goes. */
  cableSpeed: number
}

const NORMAL: Switches = {
  plugged: true,
  mode: 'normal',
  broken: false,
  locked: false,
  trust: 'yes',
  erased: false,
  theftLock: false,
  flightMode: false,
  cableSpeed: 0,
}

/** A pairing as the device keeps it. */
export interface Pairing {
  deviceCertificate: string
  rootCertificate: string
}

type Answering = (socket: Socket) => Promise<void>

const LOCKDOWN_PORT = 62_078
const FIRST_SERVICE_PORT = 49_152

/** A device that is played: identity, switches, pairings and open connections. */
export class StandInDevice extends EventEmitter<{ changed: [] }> {
  readonly switches: Switches
  readonly pairings = new Map<string, Pairing>()
  readonly #key: { publicKey: KeyObject; privateKey: KeyObject }
  readonly #connections = new Set<Duplex>()
  readonly #ports = new Map<number, Answering>()
  #nextPort = FIRST_SERVICE_PORT
  /** What went over the cable, for those who look at the stand-in. */
  sentBytes = 0

  constructor(
    readonly identity: Identity,
    readonly files: DeviceFiles,
    switches: Partial<Switches> = {},
  ) {
    super()
    this.switches = { ...NORMAL, ...switches }
    this.#key = generateKeyPairSync('rsa', { modulusLength: 2048 })
  }

  get publicKeyPem(): Buffer {
    return Buffer.from(this.#key.publicKey.export({ type: 'pkcs1', format: 'pem' }))
  }

  get visible(): boolean {
    return this.switches.plugged && this.switches.mode !== 'recovery'
  }

  /** Turns switches. Who is unplugged or restarts loses every connection. */
  set(switches: Partial<Switches>): void {
    const before = this.visible
    Object.assign(this.switches, switches)
    if (!this.visible || switches.mode) this.dropAll()
    if (before !== this.visible || switches.mode) this.emit('changed')
  }

  dropAll(): void {
    for (const connection of this.#connections) connection.destroy()
    this.#connections.clear()
  }

  /** True where the certificate that a host made for this device holds its own key. */
  owns(certificate: string): boolean {
    try {
      const held = new X509Certificate(certificate).publicKey.export({ type: 'spki', format: 'der' })
      return held.equals(createPublicKey(this.publicKeyPem).export({ type: 'spki', format: 'der' }))
    } catch {
      return false
    }
  }

  /** A port on which `answer` waits for one connection. */
  listen(answer: Answering): number {
    const port = this.#nextPort++
    this.#ports.set(port, answer)
    return port
  }

  listens(port: number): boolean {
    return port === LOCKDOWN_PORT || this.#ports.has(port)
  }

  /** Takes a connection that the multiplexer hands over. */
  accept(port: number, socket: Socket, lockdown: Answering): void {
    const answer = this.#ports.get(port) ?? lockdown
    this.#ports.delete(port)
    this.#connections.add(socket)
    socket.on('close', () => this.#connections.delete(socket))
    // A device that is stuck takes connections and never says a word.
    if (this.switches.mode === 'stuck') return
    answer(socket).catch(() => socket.destroy())
  }

  /** The device's half of the secured connection; only the host of the pairing is let in. */
  secure(socket: Socket, pairing: Pairing): Promise<TLSSocket> {
    const stream = new TLSSocket(socket, {
      isServer: true,
      key: this.#key.privateKey.export({ type: 'pkcs8', format: 'pem' }),
      cert: pairing.deviceCertificate,
      requestCert: true,
      rejectUnauthorized: false,
      minVersion: 'TLSv1',
      ciphers: 'DEFAULT@SECLEVEL=0',
    })
    return new Promise((go, fail) => {
      stream.on('error', fail)
      stream.once('secure', () => {
        const shown = stream.getPeerX509Certificate()
        if (shown?.raw.equals(new X509Certificate(pairing.rootCertificate).raw)) go(stream)
        else stream.destroy(new Error('another host than the one that was paired'))
      })
    })
  }

  /** Sends at the speed of the cable. */
  async send(stream: Duplex, bytes: Uint8Array): Promise<void> {
    const { cableSpeed } = this.switches
    const step = cableSpeed > 0 ? Math.max(1024, Math.floor(cableSpeed / 10)) : bytes.byteLength
    for (let at = 0; at < bytes.byteLength; at += step) {
      const piece = bytes.subarray(at, at + step)
      this.sentBytes += piece.byteLength
      await written(stream, piece)
      if (cableSpeed > 0) await sleep((piece.byteLength / cableSpeed) * 1000)
    }
  }
}

function written(stream: Duplex, bytes: Uint8Array): Promise<void> {
  if (stream.destroyed) return Promise.reject(new Error('the host went away'))
  return new Promise((go, fail) => stream.write(bytes, (error) => (error ? fail(error) : go())))
}
