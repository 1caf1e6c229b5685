import { createHash } from 'node:crypto'
import { Random } from '../random.js'
import type { StandInDevice } from './device.js'

/** A system as the catalogue offers it. */
export interface SystemImage {
  id: string
  productType: string
  version: string
  bytes: number
  sha256: string
}

const IMAGE_BYTES = 24 << 20
const PIECE = 1 << 20

/**
 * Devices that do not start: they have left the multiplexer and listen for orders of another kind. The real channel is a
 * matter of USB requests; this is one of our own, over HTTP.
 */
export class RecoveryBench {
  readonly #images = new Map<string, SystemImage>()

  constructor(readonly devices: readonly StandInDevice[]) {
    for (const { identity } of devices) {
      const id = `${identity.productType.replace(',', '-')}-${identity.osVersion}`
      if (!this.#images.has(id)) this.#images.set(id, imageOf(id, identity.productType, identity.osVersion))
    }
  }

  waiting() {
    return this.devices
      .filter(({ switches }) => switches.plugged && switches.mode === 'recovery')
      .map(({ identity: { udid, name, productType } }) => ({ udid, name, productType }))
  }

  images(productType: string): SystemImage[] {
    return [...this.#images.values()].filter((image) => image.productType === productType)
  }

  *content(id: string): Generator<Uint8Array> {
    const image = this.#images.get(id)
    if (image) yield* bytesOf(id, image.bytes)
  }

  /** Starts the device the ordinary way; a damaged system gets stuck again. */
  leave(udid: string): boolean {
    const device = this.#find(udid)
    device?.set({ mode: device.switches.broken ? 'stuck' : 'normal' })
    return device !== undefined
  }

  /** Takes a system as it comes in. Nothing changes on the device unless every byte of it is right. */
  async install(udid: string, imageId: string, keep: boolean, bytes: AsyncIterable<Uint8Array>): Promise<boolean> {
    const device = this.#find(udid)
    const image = this.#images.get(imageId)
    if (!device || !image || image.productType !== device.identity.productType) return false
    const hash = createHash('sha256')
    for await (const piece of bytes) hash.update(piece)
    if (hash.digest('hex') !== image.sha256) return false
    device.set({ mode: 'normal', broken: false, ...(keep ? {} : { erased: true }) })
    return true
  }

  #find(udid: string): StandInDevice | undefined {
    return this.devices.find(({ identity, switches }) => identity.udid === udid && switches.mode === 'recovery')
  }
}

function imageOf(id: string, productType: string, version: string): SystemImage {
  const hash = createHash('sha256')
  for (const piece of bytesOf(id, IMAGE_BYTES)) hash.update(piece)
  return { id, productType, version, bytes: IMAGE_BYTES, sha256: hash.digest('hex') }
}

/** Made-up bytes, the same for the same id. */
function* bytesOf(id: string, size: number): Generator<Uint8Array> {
  const random = new Random([...id].reduce((sum, letter) => sum * 31 + letter.charCodeAt(0), 7) >>> 0)
  const piece = Buffer.alloc(PIECE)
  for (let at = 0; at < PIECE; at += 4) piece.writeUInt32LE(Math.floor(random.next() * 2 ** 32), at)
  for (let at = 0; at < size; at += PIECE) {
    piece.writeUInt32LE(at, 0)
    yield Buffer.from(piece.subarray(0, Math.min(PIECE, size - at)))
  }
}
