import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import type { Sighting } from '../categories/types.js'
import { MemorySource } from '../io/source.js'
import { BagWriter } from './bag.js'
import { mostFileBytes } from './bag-place.js'
import type { PackageContext } from './format.js'
import { Places } from './names.js'
import { OriginalsWriter } from './originals.js'

const film = (name: string): Sighting => ({
  category: 'photos',
  condition: 'live',
  when: '2026-05-31T18:30:00.000Z',
  title: name,
  text: null,
  fields: {},
  content: { name, bytes: 9, mime: 'video/quicktime', sha256: null, domain: 'd', path: name },
  origin: { domain: 'd', path: 'p', table: null, rowid: 1, place: 'live', page: null, offset: null },
  missing: [],
  confidence: 1,
})

it('a file that is longer than the disk can hold is told as missing, and others are written', async () => {
  const bag = await BagWriter.create(join(scratchFolder(), 'package'))
  expect(bag.mostFileBytes).toBe(await mostFileBytes(bag.staging))
  bag.mostFileBytes = 8
  const missed: string[] = []
  const placed: string[] = []
  const context = {
    ...{ bag, places: new Places(), timeZone: 'UTC', duplicates: 'once' },
    ...{ missed: (why: string) => missed.push(why), placed: (place: string) => placed.push(place) },
  } as unknown as PackageContext
  const writer = new OriginalsWriter(context, 'photos')
  for (const [name, bytes] of [
    ['long.mov', 9],
    ['short.mov', 8],
  ] as const)
    await writer.add({
      ...{ sighting: film(name), standing: 'kept', reveal: async () => undefined },
      open: async () => new MemorySource(Buffer.alloc(bytes, 1)),
    })
  expect(missed).toEqual([expect.stringMatching(/^long\.mov: it is longer than this disk can hold.*exFAT/)])
  expect(placed).toEqual(['photos/2026/05/short.mov'])
  expect(readdirSync(join(bag.staging, 'data/photos/2026/05'))).toEqual(['short.mov'])
})
