/**
 * Films of a few seconds, made without an encoder: H.264 whose blocks hold their samples as they are (ITU-T H.264, 7.3.5,
 * I_PCM), every picture for itself, in an ISO base media file (ISO/IEC 14496-12, 14496-15). Large for what they show, and
 * every player takes them.
 */

/** A picture of a film: three bytes a point, red, green and blue; sides are multiples of 16. */
export type Frame = Uint8Array

const BLOCK = 16

/** Writes single bits. */
class Bits {
  readonly #bytes: number[] = []
  #last = 0
  #free = 8

  put(value: number, count: number): this {
    for (let i = count - 1; i >= 0; i--) {
      this.#last = (this.#last << 1) | ((value >>> i) & 1)
      if (--this.#free > 0) continue
      this.#bytes.push(this.#last)
      this.#last = 0
      this.#free = 8
    }
    return this
  }

  /** An unsigned number of variable length (9.1, Exp-Golomb). */
  ue(value: number): this {
    const length = 32 - Math.clz32(value + 1)
    return this.put(0, length - 1).put(value + 1, length)
  }

  /** Zeros up to the next whole byte, then these. */
  bytes(list: Uint8Array): this {
    while (this.#free < 8) this.put(0, 1)
    for (const byte of list) this.#bytes.push(byte)
    return this
  }

  /** The end of a unit: a one, and zeros up to a whole byte. */
  end(): number[] {
    this.put(1, 1)
    while (this.#free < 8) this.put(0, 1)
    return this.#bytes
  }
}

/** A unit with its kind; where it could be taken for the mark between units, a byte is put in (7.4.1). */
function unit(kind: number, payload: readonly number[]): Uint8Array {
  const bytes = [kind]
  let zeros = 0
  for (const byte of payload) {
    if (zeros >= 2 && byte <= 3) {
      bytes.push(3)
      zeros = 0
    }
    bytes.push(byte)
    zeros = byte === 0 ? zeros + 1 : 0
  }
  return Uint8Array.from(bytes)
}

const sequenceSet = (width: number, height: number): Uint8Array =>
  unit(
    0x67,
    new Bits()
      .put(66, 8)
      .put(0xc0, 8)
      .put(30, 8)
      .ue(0)
      .ue(0)
      .ue(2)
      .ue(1)
      .put(0, 1)
      .ue(width / BLOCK - 1)
      .ue(height / BLOCK - 1)
      .put(0b1100, 4)
      .end(),
  )

// No entropy coding but the simple one, one slice group, and word on the deblocking of each slice.
const pictureSet = (): Uint8Array =>
  unit(0x68, new Bits().ue(0).ue(0).put(0, 2).ue(0).ue(0).ue(0).put(0, 3).ue(0).ue(0).ue(0).put(0b100, 3).end())

function slice(frame: Frame, width: number, height: number, number: number): Uint8Array {
  const bits = new Bits()
    .ue(0)
    .ue(7)
    .ue(0)
    .put(0, 4)
    .ue(number % 2)
    .put(0, 2)
    .ue(0)
    .ue(1)
  for (let top = 0; top < height; top += BLOCK)
    for (let left = 0; left < width; left += BLOCK) bits.ue(25).bytes(samples(frame, width, left, top))
  return unit(0x65, bits.end())
}

/** The samples of a block: brightness of 16 by 16 points, then 8 by 8 of each colour difference (ITU-R BT.601). */
function samples(frame: Frame, width: number, left: number, top: number): Uint8Array {
  const block = new Uint8Array(256 + 64 + 64)
  const point = (x: number, y: number) => {
    const at = ((top + y) * width + left + x) * 3
    return [frame[at] ?? 0, frame[at + 1] ?? 0, frame[at + 2] ?? 0] as const
  }
  for (let y = 0; y < BLOCK; y++)
    for (let x = 0; x < BLOCK; x++) {
      const [r, g, b] = point(x, y)
      block[y * BLOCK + x] = 16 + (65.5 * r + 128.6 * g + 25 * b) / 256
      if (x % 2 || y % 2) continue
      const at = 256 + (y / 2) * 8 + x / 2
      block[at] = 128 + (-37.8 * r - 74.2 * g + 112 * b) / 256
      block[at + 64] = 128 + (112 * r - 93.8 * g - 18.2 * b) / 256
    }
  return block
}

const u32 = (...values: number[]) => {
  const bytes = Buffer.alloc(4 * values.length)
  for (const [i, value] of values.entries()) bytes.writeUInt32BE(value >>> 0, 4 * i)
  return bytes
}
const u16 = (...values: number[]) => Buffer.from(values.flatMap((value) => [(value >> 8) & 0xff, value & 0xff]))
const box = (name: string, ...parts: Uint8Array[]): Buffer => {
  const body = Buffer.concat(parts)
  return Buffer.concat([u32(8 + body.length), Buffer.from(name, 'latin1'), body])
}
const EVEN = Buffer.concat([u32(0x10000, 0, 0), u32(0, 0x10000, 0), u32(0, 0, 0x40000000)])
// Seconds from 1904 to 1970.
const EPOCH_1904 = 2_082_844_800

/** A film of these pictures. `rate`: pictures a second. */
export function film(
  frames: readonly Frame[],
  { width, height, rate, takenAt }: { width: number; height: number; rate: number; takenAt: Date },
): Uint8Array {
  const units = frames.map((frame, i) => slice(frame, width, height, i))
  const kept = units.map((one) => Buffer.concat([u32(one.length), one]))
  const head = box('ftyp', Buffer.from('qt  '), u32(0), Buffer.from('qt  isom'))
  const dataAt = head.length + 8
  const [sps, pps] = [sequenceSet(width, height), pictureSet()]
  const avcC = box(
    'avcC',
    Buffer.from([1, 66, 0xc0, 30, 0xff, 0xe1]),
    u16(sps.length),
    sps,
    Buffer.from([1]),
    u16(pps.length),
    pps,
  )
  const look = box(
    'avc1',
    ...[Buffer.alloc(6), u16(1), Buffer.alloc(16), u16(width, height), u32(72 << 16, 72 << 16, 0), u16(1)],
    ...[Buffer.alloc(32), u16(24, 0xffff), avcC],
  )
  const table = box(
    'stbl',
    box('stsd', u32(0, 1), look),
    box('stts', u32(0, 1, frames.length, 1)),
    box('stsc', u32(0, 1, 1, frames.length, 1)),
    box('stsz', u32(0, 0, frames.length, ...kept.map((one) => one.length))),
    box('stco', u32(0, 1, dataAt)),
  )
  const [made, count] = [takenAt.getTime() / 1000 + EPOCH_1904, frames.length]
  const header = box('mdhd', u32(0, made, made, rate, count), u16(0x55c4, 0))
  const handler = box('hdlr', u32(0, 0), Buffer.from('vide'), Buffer.alloc(12), Buffer.from('\0'))
  const place = box('dinf', box('dref', u32(0, 1), box('url ', u32(1))))
  const media = box('mdia', header, handler, box('minf', box('vmhd', u32(1), u16(0, 0, 0, 0)), place, table))
  const shown = box('tkhd', u32(7, made, made, 1, 0, count, 0, 0, 0, 0), EVEN, u32(width << 16, height << 16))
  const whole = box(
    'mvhd',
    u32(0, made, made, rate, count, 0x10000),
    u16(0x100, 0),
    u32(0, 0),
    EVEN,
    Buffer.alloc(24),
    u32(2),
  )
  return Buffer.concat([head, box('mdat', ...kept), box('moov', whole, box('trak', shown, media))])
}
