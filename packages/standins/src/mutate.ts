import type { Random } from './random.js'

/** A damaged copy of a file: bytes flipped, the end cut off, parts spliced, or numbers that mean much written over it. */
export function mutate(bytes: Buffer, random: Random): Buffer {
  if (bytes.length < 8) return bytes
  let out = Buffer.from(bytes)
  const kind = random.int(0, 3)
  if (kind === 0) for (let i = random.int(1, 60); i > 0; i--) out[random.int(0, out.length - 1)] = random.int(0, 255)
  if (kind === 1) out = out.subarray(0, random.int(0, out.length))
  if (kind === 2) out.copy(out, random.int(0, out.length - 1), random.int(0, out.length - 1), out.length)
  // Numbers that mean much: in headers, pointers and sizes.
  if (kind === 3)
    for (let i = random.int(1, 20); i > 0; i--) {
      const at = random.chance(0.3) ? random.int(0, Math.min(110, out.length - 4)) : random.int(0, out.length - 4)
      out.writeUInt32BE(random.pick([0, 1, 2, 0xff, 0xffff, 0x7fffffff, 0xffffffff, random.int(0, 40)]), at)
    }
  return out
}
