import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CopyChecker } from '@lumbrin/core/copies/check'
import { copiesIn } from '@lumbrin/core/copies/place'
import { CUTS, CutCopies, WORKS } from '../tests/faults/cut-copies.js'
import { copyOf, LivedDevice } from '../tests/setup/lived-device.js'

const WEEKS = 52
const MEGA = 1e6

/**
 * `npm run bench -- copies [CUTS] [PICTURES]`: safe copies of a device each week of a year, beside the bytes that are
 * different in it; then work on copies cut off at so many moments by a kill or a pulled disk.
 */
export async function benchCopies([cuts = '104', pictures = '1500']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-copies-'))
  try {
    await aYear(folder, Number(pictures))
    await cutOff(join(folder, 'cut'), Number(cuts))
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

async function aYear(folder: string, pictures: number): Promise<void> {
  const device = new LivedDevice({ first: pictures, weekly: Math.ceil(pictures / 200), sizes: [400_000, 600_000] })
  const place = join(folder, 'year')
  const distinct = new Map<Buffer, number>()
  const seconds: number[] = []
  for (let week = 0; week < WEEKS; week++) {
    device.live()
    for (const { content } of device.files.values()) distinct.set(content, content.length)
    const backup = await device.backup(folder)
    const began = performance.now()
    await copyOf(backup, place)
    seconds.push((performance.now() - began) / 1000)
    rmSync(backup, { recursive: true })
  }
  const different = [...distinct.values()].reduce((sum, bytes) => sum + bytes, 0)
  const checker = new CopyChecker()
  const { copies } = await copiesIn(place)
  let problems = 0
  for (const { folder: copy } of copies) problems += (await checker.check(copy)).problems.length
  const [first = 0, last = 0] = [seconds[0], seconds.at(-1)]
  console.log(
    `${copies.length} copies of ${pictures} pictures and more, lists and all: ${Math.round(storedIn(place) / MEGA)} MB for ${Math.round(different / MEGA)} MB that are different (${(storedIn(place) / different).toFixed(3)}), ${problems} problems; the first took ${first.toFixed(1)} s, the last ${last.toFixed(2)} s (${(last / first).toFixed(3)})`,
  )
  if (problems > 0) process.exitCode = 1
}

/** Bytes of everything in a place: contents, and the lists of all copies. */
const storedIn = (place: string) =>
  readdirSync(place, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .reduce((sum, { parentPath, name }) => sum + statSync(join(parentPath, name)).size, 0)

async function cutOff(folder: string, times: number): Promise<void> {
  mkdirSync(folder)
  const copies = new CutCopies(folder)
  await copies.begin()
  let wrong = 0
  for (let n = 0; n < times; n++) {
    const work = WORKS[n % WORKS.length] as (typeof WORKS)[number]
    const cut = CUTS[Math.floor(n / WORKS.length) % CUTS.length] as (typeof CUTS)[number]
    const found = await copies.cut(work, cut).catch((thrown: Error) => [thrown.message])
    for (const words of found) console.log(`${work}, ${cut}: ${words}`)
    if (found.length > 0) wrong++
  }
  console.log(
    `${times} cuts (${WORKS.join(', ')} by ${CUTS.join(' and ')}): ${wrong} after which something was not right`,
  )
  if (wrong > 0) process.exitCode = 1
}
