import { describe, expect, it } from 'vitest'
import { film } from './film.js'

const WIDTH = 32
const HEIGHT = 16
const grey = (value: number) => new Uint8Array(WIDTH * HEIGHT * 3).fill(value)
const made = Buffer.from(
  film([grey(0), grey(255), grey(128)], { width: WIDTH, height: HEIGHT, rate: 3, takenAt: new Date('2026-11-02') }),
)

interface Box {
  name: string
  start: number
  end: number
}

/** Boxes one after the other (ISO/IEC 14496-12, 4.2). */
function boxesIn(start: number, end: number): Box[] {
  const boxes: Box[] = []
  for (let at = start; at < end; at = boxes.at(-1)?.end ?? end)
    boxes.push({ name: made.toString('latin1', at + 4, at + 8), start: at + 8, end: at + made.readUInt32BE(at) })
  return boxes
}
const inside = (path: string[]): Box =>
  path.reduce<Box>((box, name) => boxesIn(box.start, box.end).find((one) => one.name === name) as Box, {
    name: '',
    start: 0,
    end: made.length,
  })

describe('a film', () => {
  it('is a file of boxes that fill it to the last byte', () => {
    const boxes = boxesIn(0, made.length)
    expect(boxes.map(({ name }) => name)).toEqual(['ftyp', 'mdat', 'moov'])
    expect(boxes.at(-1)?.end).toBe(made.length)
  })

  it('names its size, its length and where each picture lies', () => {
    const look = inside(['moov', 'trak', 'mdia', 'minf', 'stbl', 'stsd'])
    expect([made.readUInt16BE(look.start + 8 + 32), made.readUInt16BE(look.start + 8 + 34)]).toEqual([WIDTH, HEIGHT])
    const head = inside(['moov', 'mvhd'])
    expect(made.readUInt32BE(head.start + 16) / made.readUInt32BE(head.start + 12)).toBe(1)
    const sizes = inside(['moov', 'trak', 'mdia', 'minf', 'stbl', 'stsz'])
    const data = inside(['mdat'])
    const sum = [0, 1, 2].reduce((total, i) => total + made.readUInt32BE(sizes.start + 12 + 4 * i), 0)
    expect(sum).toBe(data.end - data.start)
    const offsets = inside(['moov', 'trak', 'mdia', 'minf', 'stbl', 'stco'])
    expect(made.readUInt32BE(offsets.start + 8)).toBe(data.start)
  })

  it('holds no mark between units inside of one', () => {
    const { start, end } = inside(['mdat'])
    for (let at = start; at < end; ) {
      const length = made.readUInt32BE(at)
      const unit = made.subarray(at + 4, at + 4 + length)
      for (const mark of ['000000', '000001', '000002']) expect(unit.includes(Buffer.from(mark, 'hex'))).toBe(false)
      at += 4 + length
    }
  })
})
