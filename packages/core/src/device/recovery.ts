import { createHash } from 'node:crypto'
import { z } from 'zod'
import { DeviceError } from './errors.js'

const Waiting = z.array(z.object({ udid: z.string(), name: z.nullable(z.string()), productType: z.string() }))
const Image = z.object({
  id: z.string().regex(/^[\w.-]{1,100}$/),
  productType: z.string(),
  version: z.string(),
  bytes: z.number().int().positive(),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
})

/** A device that does not start and waits for orders. */
export type WaitingDevice = z.infer<typeof Waiting>[number]
/** A system that can be installed. */
export type SystemImage = z.infer<typeof Image>

const PATIENCE_MS = 15_000

/**
 * The channel to devices that have left the multiplexer because they do not start. Real ones take USB requests; the
 * stand-in's channel is HTTP, so that nothing here is proven against a real device.
 */
export class RecoveryChannel {
  constructor(readonly address: string) {}

  async waiting(): Promise<WaitingDevice[]> {
    return Waiting.parse(await (await this.#ask('/recovery')).json())
  }

  /** Systems for a model, newest first. */
  async images(productType: string): Promise<SystemImage[]> {
    const images = z
      .array(Image)
      .parse(await (await this.#ask(`/images?product=${encodeURIComponent(productType)}`)).json())
    return images.sort((a, b) => b.version.localeCompare(a.version, 'en', { numeric: true }))
  }

  /** Lets the device start the ordinary way. Nothing on it changes. */
  async leave(udid: string): Promise<void> {
    await this.#ask(`/recovery/${encodeURIComponent(udid)}/leave`, { method: 'POST' })
  }

  /**
   * Installs a system. It is fetched whole and checked against its hash before the device sees a byte of it.
   * @param keep true: what the owner has on the device stays; false: all of it is erased
   * @throws DeviceError where the bytes are not the system's, or the device does not take them
   */
  async install(
    udid: string,
    image: SystemImage,
    keep: boolean,
    progress: (phase: 'fetching' | 'installing', share: number) => void,
    signal: AbortSignal,
  ): Promise<void> {
    const bytes = await this.#fetchImage(image, progress, signal)
    progress('installing', 0)
    const words = `image=${encodeURIComponent(image.id)}&keep=${keep ? 1 : 0}`
    const answer = await this.#ask(`/recovery/${encodeURIComponent(udid)}/install?${words}`, {
      method: 'POST',
      body: new Blob(bytes as BlobPart[]),
      signal,
    })
    const { done } = z.object({ done: z.boolean() }).parse(await answer.json())
    if (!done) throw new DeviceError('refused', 'The device did not take the system. Nothing on it was changed.')
    progress('installing', 1)
  }

  async #fetchImage(
    image: SystemImage,
    progress: (phase: 'fetching', share: number) => void,
    signal: AbortSignal,
  ): Promise<Uint8Array[]> {
    const answer = await this.#ask(`/images/${encodeURIComponent(image.id)}`, { signal })
    const hash = createHash('sha256')
    const pieces: Uint8Array[] = []
    let size = 0
    for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) {
      size += piece.byteLength
      if (size > image.bytes) break
      hash.update(piece)
      pieces.push(piece)
      progress('fetching', size / image.bytes)
    }
    if (size !== image.bytes || hash.digest('hex') !== image.sha256)
      throw new DeviceError(
        'garbled',
        'The system that was fetched is damaged: its checksum is wrong. Nothing was installed.',
      )
    return pieces
  }

  async #ask(path: string, init: RequestInit = {}): Promise<Response> {
    const patience = init.signal ? {} : { signal: AbortSignal.timeout(PATIENCE_MS) }
    const answer = await fetch(`${this.address}${path}`, { ...patience, ...init }).catch((cause: unknown) => {
      throw new DeviceError('silent', undefined, { cause })
    })
    if (answer.ok || answer.status === 422) return answer
    throw new DeviceError('refused', `The device does not take this order (${answer.status}).`)
  }
}
