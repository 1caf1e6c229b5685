import { createHash } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
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
    // A system is gigabytes: it waits on disk until its checksum is known.
    const folder = await mkdtemp(join(tmpdir(), 'lumbrin-system-'))
    try {
      const file = join(folder, 'image')
      await this.#fetchImage(image, file, progress, signal)
      progress('installing', 0)
      const words = `image=${encodeURIComponent(image.id)}&keep=${keep ? 1 : 0}`
      const body = Readable.toWeb(createReadStream(file)) as unknown as BodyInit
      const init = { method: 'POST', body, signal, duplex: 'half' } as RequestInit
      const answer = await this.#ask(`/recovery/${encodeURIComponent(udid)}/install?${words}`, init)
      const { done } = z.object({ done: z.boolean() }).parse(await answer.json())
      if (!done) throw new DeviceError('refused', 'The device did not take the system. Nothing on it was changed.')
      progress('installing', 1)
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  }

  async #fetchImage(
    image: SystemImage,
    file: string,
    progress: (phase: 'fetching', share: number) => void,
    signal: AbortSignal,
  ): Promise<void> {
    const answer = await this.#ask(`/images/${encodeURIComponent(image.id)}`, { signal })
    const hash = createHash('sha256')
    let size = 0
    async function* checked(pieces: AsyncIterable<Uint8Array>) {
      for await (const piece of pieces) {
        size += piece.byteLength
        if (size > image.bytes) return
        hash.update(piece)
        progress('fetching', size / image.bytes)
        yield piece
      }
    }
    await pipeline(checked(answer.body as unknown as AsyncIterable<Uint8Array>), createWriteStream(file))
    if (size !== image.bytes || hash.digest('hex') !== image.sha256)
      throw new DeviceError(
        'garbled',
        'The system that was fetched is damaged: its checksum is wrong. Nothing was installed.',
      )
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
