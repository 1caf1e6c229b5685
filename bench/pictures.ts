import { apart, COPY_LIMITS, type Fingerprint, pictureFingerprint } from '@lumbrin/core/media/fingerprint'
import { NeighbourIndex } from '@lumbrin/core/media/neighbours'
import { shownPicture } from '@lumbrin/core/media/picture'
import { makePictures } from '@lumbrin/standins/demo/photos'
import { Random } from '@lumbrin/standins/random'
import sharp from 'sharp'
import { shown } from '../apps/workbench/src/services/media-pool.js'

const SCENES = 300
const MANY = 50_000

/** Copies found and false ones among look-alikes; neighbours of 50,000 fingerprints; tiles beside the image library alone. */
export async function benchPictures(): Promise<void> {
  const pictures = await makePictures(SCENES, new Date('2026-11-14T20:15:00Z'), 20261114)
  const prints: Fingerprint[] = []
  let found = 0
  let made = 0
  for (const { jpeg } of pictures) {
    const print = (await pictureFingerprint(jpeg)) as Fingerprint
    prints.push(print)
    const upright = sharp(jpeg).rotate()
    for (const copy of [
      upright.clone().resize(320).jpeg({ quality: 60 }),
      upright.clone().resize(160).webp({ quality: 40 }),
      upright.clone().modulate({ brightness: 1.06 }).jpeg({ quality: 75 }),
    ]) {
      const other = (await pictureFingerprint(await copy.toBuffer())) as Fingerprint
      made++
      if (isCopy(print, other)) found++
    }
  }
  let pairs = 0
  let wrong = 0
  for (const [i, one] of prints.entries())
    for (const other of prints.slice(i + 1)) {
      pairs++
      if (isCopy(one, other)) wrong++
    }
  console.log(
    `copies found ${found} of ${made} (${((100 * found) / made).toFixed(1)} %); look-alikes taken for copies ${wrong} of ${pairs} pairs`,
  )
  neighbours()
  await tiles(pictures.map(({ jpeg }) => jpeg))
}

const isCopy = (one: Fingerprint, other: Fingerprint) =>
  new NeighbourIndex([one.coarse, other.coarse]).near(0, COPY_LIMITS.coarse).length === 1 &&
  apart(one.fine, other.fine) <= COPY_LIMITS.fine

function neighbours(): void {
  const random = new Random(3)
  const word = () => (BigInt(Math.floor(random.next() * 2 ** 32)) << 32n) | BigInt(Math.floor(random.next() * 2 ** 32))
  const all = Array.from({ length: MANY }, word)
  // One in ten is a copy of another that differs in four bits.
  for (let at = 9; at < MANY; at += 10) all[at] = (all[at - 1] as bigint) ^ (0x8000100002000040n >> BigInt(at % 6))
  const started = performance.now()
  const index = new NeighbourIndex(all)
  let found = 0
  for (let at = 0; at < MANY; at++) found += index.near(at, COPY_LIMITS.coarse).length
  console.log(
    `neighbours of ${MANY} fingerprints: ${((performance.now() - started) / 1000).toFixed(2)} s, ${found} found of ${MANY / 5}`,
  )
}

async function tiles(pictures: readonly Uint8Array[]): Promise<void> {
  // The settings of the application are asked for; no database is.
  process.env.LUMBRIN_DATABASE_URL ??= 'mysql://nobody@127.0.0.1/none'
  const each = async (work: (bytes: Uint8Array) => Promise<unknown>) => {
    const queue = pictures.values()
    const started = performance.now()
    await Promise.all(
      [0, 1].map(async () => {
        for (const bytes of queue) await work(bytes)
      }),
    )
    return (1000 * pictures.length) / (performance.now() - started)
  }
  await shown(pictures[0] as Uint8Array, 320)
  const library = await each((bytes) =>
    sharp(bytes).rotate().resize(320, 320, { fit: 'inside' }).webp({ quality: 78 }).toBuffer(),
  )
  const here = await each((bytes) => shownPicture(bytes, 320))
  const apart = await each((bytes) => shown(bytes, 320))
  console.log(
    `tiles a second: image library alone ${library.toFixed(0)}, ours in the same process ${here.toFixed(0)}, in processes of their own ${apart.toFixed(0)} (${(apart / library).toFixed(2)})`,
  )
  process.exit(0)
}
