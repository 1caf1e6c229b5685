import { mkdtemp } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { contentId } from '@lumbrin/core/device/places'
import type { Picture } from '@lumbrin/standins/demo/photos'
import { photoLibrary } from '@lumbrin/standins/demo/photos'
import { StandInDevice } from '@lumbrin/standins/device/device'
import type { DeviceFile, DeviceFiles } from '@lumbrin/standins/device/files'
import { StandInMultiplexer } from '@lumbrin/standins/device/multiplexer'

/** A large made-up phone, and a plain socket that sends as many bytes: the peer that its reading is compared with. */
const [, , items = '0', bytes = '0'] = process.argv
const PIECE = Buffer.alloc(256 << 10, 'a made-up picture ')

class LargeFiles implements DeviceFiles {
  readonly #all: DeviceFile[]

  constructor(
    count: number,
    total: number,
    readonly library: Uint8Array,
  ) {
    this.#all = [file('Media/PhotoData/Photos.sqlite', library.byteLength)]
    for (let i = 0; i < count; i++) this.#all.push(file(`Media/DCIM/100APPLE/${nameOf(i)}`, Math.floor(total / count)))
  }

  files() {
    return this.#all
  }

  async *content({ path, size }: DeviceFile, start = 0): AsyncGenerator<Uint8Array> {
    if (path.endsWith('.sqlite')) return yield this.library.subarray(start)
    for (let left = size - start; left > 0; left -= PIECE.byteLength)
      yield PIECE.subarray(0, Math.min(left, PIECE.byteLength))
  }

  async changedAt(): Promise<Date> {
    return new Date(0)
  }

  async lists(): Promise<Map<string, Uint8Array>> {
    return new Map()
  }
}

const nameOf = (i: number) => `IMG_${String(i).padStart(5, '0')}.JPG`
const file = (path: string, size: number): DeviceFile => ({
  domain: 'CameraRollDomain',
  path,
  size,
  id: contentId({ domain: 'CameraRollDomain', path }),
  modifiedAt: new Date(1_700_000_000_000),
})

const pictures = Array.from(
  { length: Number(items) },
  (_, i): Picture => ({
    name: nameOf(i),
    uuid: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
    takenAt: new Date(1_600_000_000_000 + i * 60_000),
    zone: 60,
    place: null,
    album: null,
    fate: 'live',
    jpeg: new Uint8Array(),
    original: new Uint8Array(),
  }),
)
const scratch = await mkdtemp(join(tmpdir(), 'lumbrin-bench-device-'))
const library = await photoLibrary(join(scratch, 'Photos.sqlite'), pictures, [], new Date())
const identity = {
  udid: '00008110-00000BE9C4000001',
  name: 'Large phone',
  productType: 'iPhone14,5',
  osVersion: '17.6.1',
  capacity: 128e9,
}
const mux = new StandInMultiplexer()
mux.add(new StandInDevice(identity, new LargeFiles(Number(items), Number(bytes), library)))
await mux.listen({ host: '127.0.0.1', port: 0 })
const plain = createServer(async (socket) => {
  socket.on('error', () => {})
  for (let left = Number(bytes); left > 0; left -= PIECE.byteLength)
    if (!socket.write(PIECE.subarray(0, Math.min(left, PIECE.byteLength))))
      await new Promise((go) => socket.once('drain', go))
  socket.end()
})
await new Promise<void>((go) => plain.listen(0, '127.0.0.1', go))
const address = plain.address()
console.log(`ready ${mux.port} ${typeof address === 'object' && address ? address.port : 0}`)
