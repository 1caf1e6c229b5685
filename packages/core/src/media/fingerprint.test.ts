import { makePictures } from '@lumbrin/standins/demo/photos'
import { Random } from '@lumbrin/standins/random'
import fc from 'fast-check'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { apart, COPY_LIMITS, type Fingerprint, pictureFingerprint } from './fingerprint.js'
import { NeighbourIndex } from './neighbours.js'

const near = (one: Fingerprint, other: Fingerprint) =>
  new NeighbourIndex([one.coarse, other.coarse]).near(0, COPY_LIMITS.coarse).length === 1 &&
  apart(one.fine, other.fine) <= COPY_LIMITS.fine

describe('the fingerprint of a picture', () => {
  it('is that of its copies, smaller and saved anew, and of no other picture', async () => {
    const pictures = await makePictures(24, new Date('2026-11-14T20:15:00Z'), 20261114)
    const prints: Fingerprint[] = []
    let found = 0
    for (const { jpeg } of pictures) {
      const print = await pictureFingerprint(jpeg)
      if (!print) throw new Error('a scene is never plain')
      prints.push(print)
      for (const copy of [
        sharp(jpeg).rotate().resize(320).jpeg({ quality: 60 }),
        sharp(jpeg).rotate().resize(160).webp({ quality: 40 }),
        sharp(jpeg).rotate().modulate({ brightness: 1.06 }).jpeg({ quality: 75 }),
      ]) {
        const other = await pictureFingerprint(await copy.toBuffer())
        if (other && near(print, other)) found++
      }
    }
    // The hardest of them, a tenth of the size and saved with little care, may be missed.
    expect(found / (3 * prints.length)).toBeGreaterThan(0.94)
    for (const [i, one] of prints.entries())
      for (const other of prints.slice(i + 1)) expect(near(one, other)).toBe(false)
  })

  it('is not given to a plain surface', async () => {
    const plain = sharp({ create: { width: 300, height: 200, channels: 3, background: '#777' } })
    expect(await pictureFingerprint(await plain.png().toBuffer())).toBeUndefined()
  })

  it('is refused for bytes that are no picture', async () => {
    await expect(pictureFingerprint(new Uint8Array(100))).rejects.toMatchObject({ name: 'FormatError' })
  })
})

describe('the index of neighbours', () => {
  it('finds exactly what a comparison with everything finds', () => {
    const word = fc.bigInt({ min: 0n, max: 2n ** 64n - 1n })
    fc.assert(
      fc.property(
        word,
        fc.array(fc.array(fc.integer({ min: 0, max: 63 }), { maxLength: 10 }), { maxLength: 20 }),
        (base, flips) => {
          const all = [base, ...flips.map((bits) => bits.reduce((sum, bit) => sum ^ (1n << BigInt(bit)), base))]
          const bitsApart = (one: bigint, other: bigint) =>
            [...(one ^ other).toString(2)].filter((bit) => bit === '1').length
          const expected = all.flatMap((one, at) => (at > 0 && bitsApart(base, one) <= COPY_LIMITS.coarse ? [at] : []))
          expect(new NeighbourIndex(all).near(0, COPY_LIMITS.coarse).sort((a, b) => a - b)).toEqual(expected)
        },
      ),
    )
  })

  it('tells random fingerprints apart', () => {
    const random = new Random(5)
    const word = () =>
      (BigInt(Math.floor(random.next() * 2 ** 32)) << 32n) | BigInt(Math.floor(random.next() * 2 ** 32))
    const index = new NeighbourIndex(Array.from({ length: 2000 }, word))
    for (let at = 0; at < 2000; at++) expect(index.near(at, COPY_LIMITS.coarse)).toEqual([])
  })
})
