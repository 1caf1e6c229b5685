import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { all, databaseOf, madeTree, scratchFolder, warnings } from '../../../../../tests/setup/fixtures.js'
import { openSource } from '../../collected/open.js'
import { fromTree } from '../../export/from-tree.js'
import { writePackage } from '../../export/package.js'
import { planRead, readStep, withHashes } from '../read.js'
import { CATEGORY_IDS, type CategoryId } from '../registry.js'
import { CATEGORIES } from '../table.js'
import { type Sighting, USUAL_PASSES } from '../types.js'

const picture = (background: string) =>
  sharp({ create: { width: 40, height: 30, channels: 3, background } })
    .jpeg()
    .toBuffer()

async function made() {
  const [red, blue] = [await picture('red'), await picture('blue')]
  const database = databaseOf(`CREATE TABLE c (a); INSERT INTO c VALUES (x'${blue.toString('hex')}');`)
  const app = 'AppDomain-example.app'
  const tree = madeTree([
    [app, 'Library/Caches/box.bin', Buffer.concat([Buffer.alloc(77, 1), red, Buffer.alloc(50, 2)])],
    [app, 'Documents/cut.bin', Buffer.concat([Buffer.alloc(9, 1), red.subarray(0, red.length - 20)])],
    [app, 'Library/cache.db', database],
    [app, 'Documents/shown.jpg', Buffer.concat([Buffer.alloc(5), red])],
  ])
  const carved = (category: CategoryId) =>
    all<Sighting>(readStep(tree, { category, pass: 'carving' }, warnings().report))
  return { tree, red, blue, carved }
}

describe('the carving pass', () => {
  it('finds pictures inside of caches and databases, and says what is cut', async () => {
    const { tree, red, blue, carved } = await made()
    const found = await carved('app-pictures')
    expect(found.map(({ condition, title }) => [condition, title]).sort()).toEqual([
      ['partial', 'cut.bin at 9.jpg'],
      ['rebuilt', 'box.bin at 77.jpg'],
      ['rebuilt', expect.stringMatching(/^cache\.db at \d+\.jpg$/)],
    ])
    for (const [title, bytes] of [
      ['box.bin', red],
      ['cache.db', blue],
    ] as const) {
      const one = found.find((sighting) => sighting.title.startsWith(title)) as Sighting
      const { content } = await withHashes(tree, one, () => {})
      const { open } = fromTree(tree)
      const source = await open(content?.domain ?? '', content?.path ?? '', content?.range)
      expect(Buffer.from((await source?.read(0, bytes.length)) ?? []).equals(bytes)).toBe(true)
      expect(content?.bytes).toBe(bytes.length)
      expect(one.origin).toMatchObject({ place: 'carved', offset: content?.range?.start })
    }
    expect(await carved('app-files')).toEqual([])
  })

  it('gives pictures the date and the place that they say of themselves', async () => {
    const exif = {
      IFD2: { DateTimeOriginal: '2025:07:03 18:20:11', OffsetTimeOriginal: '+02:00' },
      IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '48/1 12/1 0/1', GPSLongitudeRef: 'E', GPSLongitude: '16/1 15/1 0/1' },
    }
    const said = await sharp(await picture('green'))
      .withExif(exif)
      .toBuffer()
    const tree = madeTree([['AppDomain-example.app', 'Library/box.bin', Buffer.concat([Buffer.alloc(9, 1), said])]])
    const [found] = await all<Sighting>(readStep(tree, { category: 'app-pictures', pass: 'carving' }, () => {}))
    expect(found).toMatchObject({
      when: '2025-07-03T16:20:11.000Z',
      fields: { zoneKnown: true, latitude: 48.2, longitude: 16.25 },
    })
    expect(CATEGORIES['app-pictures'].fields.safeParse(found?.fields).success).toBe(true)
  })

  it('hands a find over as a file of its own', async () => {
    const { tree, red, carved } = await made()
    const found = (await carved('app-pictures')).filter(({ title }) => title.startsWith('box'))
    async function* items() {
      for (const sighting of found) yield { sighting, standing: 'rebuilt' as const, ...fromTree(tree) }
    }
    const to = join(scratchFolder(), 'package')
    await writePackage(items(), { to, subject: { jobNumber: null, owner: null, device: null, sought: null } })
    expect(readFileSync(join(to, 'data/app-pictures/undated/box.bin at 77.jpg')).equals(red)).toBe(true)
  })

  it('is asked for, and only where there is something to carve', () => {
    expect(planRead(CATEGORY_IDS, USUAL_PASSES).some((step) => step.pass === 'carving')).toBe(false)
    expect(planRead(CATEGORY_IDS, ['carving']).map((step) => step.category)).toEqual([
      'app-pictures',
      'app-videos',
      'app-sounds',
      'app-files',
    ])
  })
})

describe('a raw image as a source', () => {
  it('gives what lies in its bytes, from the first one on, and nothing else', async () => {
    const [red, blue] = [await picture('red'), await picture('blue')]
    const path = join(scratchFolder(), 'card.img')
    writeFileSync(path, Buffer.concat([red, Buffer.alloc(5000, 3), blue, Buffer.alloc(300)]))
    const tree = await openSource(path, () => {})
    expect(tree.info).toMatchObject({ kind: 'image', deviceName: 'card.img' })
    const found = await all(readStep(tree, { category: 'app-pictures', pass: 'carving' }, () => {}))
    expect(found.map(({ content }) => content?.range)).toEqual([
      { start: 0, end: red.length },
      { start: red.length + 5000, end: red.length + 5000 + blue.length },
    ])
    expect(await all(readStep(tree, { category: 'messages', pass: 'live' }, () => {}))).toEqual([])
  })
})
