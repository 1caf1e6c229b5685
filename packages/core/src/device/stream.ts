import type { Duplex } from 'node:stream'
import { DeviceError } from './errors.js'

/** A device that is silent for so long has its cable half in, or has crashed. */
export const SILENCE_MS = 20_000

/** Reads a connection in pieces of known size. Nothing is read ahead, so the connection can be handed on in between. */
export class StreamReader {
  #failed: Error | undefined
  #wake = () => {}

  constructor(
    readonly stream: Duplex,
    readonly silenceMs = SILENCE_MS,
  ) {
    stream.on('error', (error) => {
      this.#failed = error
    })
    // Once and for all: a listener that is put on anew for each wait is called at once, and nothing else gets a turn.
    for (const name of ['readable', 'end', 'close', 'error'] as const) stream.on(name, () => this.#wake())
  }

  /**
   * Exactly `size` bytes; undefined: the connection ended before the first of them.
   * @throws DeviceError 'unplugged' where it ends amid them, 'silent' where nothing comes for too long
   */
  async take(size: number): Promise<Uint8Array | undefined> {
    if (size === 0) return new Uint8Array(0)
    for (;;) {
      const bytes: Uint8Array | null = this.stream.read(size)
      if (bytes?.byteLength === size) return bytes
      // At its end a stream gives what is left, however little.
      if (bytes) throw new DeviceError('unplugged')
      if (this.#ended()) return undefined
      await this.#more()
    }
  }

  /** The same, where more has to come. @throws DeviceError */
  async need(size: number): Promise<Uint8Array> {
    const bytes = await this.take(size)
    if (!bytes) throw new DeviceError('unplugged', undefined, { cause: this.#failed })
    return bytes
  }

  #ended(): boolean {
    return this.#failed !== undefined || this.stream.readableEnded || this.stream.destroyed
  }

  #more(): Promise<void> {
    return new Promise((go, fail) => {
      const timer = setTimeout(() => fail(new DeviceError('silent')), this.silenceMs)
      this.#wake = () => {
        clearTimeout(timer)
        this.#wake = () => {}
        go()
      }
    })
  }
}

/** Writes and waits until the system took it, so that a slow device bounds what is held in memory. */
export function send(stream: Duplex, bytes: Uint8Array): Promise<void> {
  return new Promise((go, fail) => {
    if (stream.destroyed) fail(new DeviceError('unplugged'))
    else
      stream.write(bytes, (error) => (error ? fail(new DeviceError('unplugged', undefined, { cause: error })) : go()))
  })
}
