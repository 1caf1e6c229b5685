import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { type CollectedEntry, Collection, collectionInfo, isCollection } from './collection.js'

const HEADER = {
  kind: 'device' as const,
  deviceName: 'Odile’s phone',
  productType: 'iPhone14,5',
  osVersion: '17.6.1',
  uniqueId: 'a1',
  takenAt: new Date('2026-11-14T20:15:00Z'),
  installedApps: ['example.puppetry.chat'],
  origin: { device: 'a1' },
}

const entry = (n: number, more: Partial<CollectedEntry> = {}): CollectedEntry => ({
  id: n.toString(16).padStart(40, '0'),
  domain: 'CameraRollDomain',
  path: `Media/DCIM/100APPLE/IMG_${n}.JPG`,
  kind: 'file',
  size: n,
  modifiedAt: new Date(1_700_000_000_000 + n),
  createdAt: null,
  target: null,
  key: null,
  reference: n % 2 ? `ref ${n}` : null,
  ...more,
})

describe('what was fetched', () => {
  it('says of itself what was written, and nothing that is none', async () => {
    const collection = new Collection(join(scratchFolder(), 'deep', 'folder'))
    expect(await isCollection(collection.folder)).toBe(false)
    await collection.writeHeader(HEADER)
    expect(await isCollection(collection.folder)).toBe(true)
    const header = await collection.header()
    expect(header).toEqual({
      format: 'lumbrin-collection',
      version: 1,
      serialNumber: null,
      receivedAt: null,
      ...HEADER,
    })
    expect(collectionInfo(collection.folder, header)).toMatchObject({
      layout: 'collected',
      path: collection.folder,
      takenAt: HEADER.takenAt,
      encrypted: false,
      complete: true,
    })
    expect(collectionInfo(collection.folder, header)).not.toHaveProperty('only')
  })

  it.each([
    ['is no JSON', 'seven strings'],
    ['is of another program', '{"format":"other","version":1}'],
    ['is of a version to come', JSON.stringify({ format: 'lumbrin-collection', version: 2, ...HEADER })],
    ['lacks what it must have', JSON.stringify({ format: 'lumbrin-collection', version: 1, kind: 'device' })],
  ])('whose header %s is refused with words', async (_, text) => {
    const folder = scratchFolder()
    writeFileSync(join(folder, 'collection.json'), text)
    await expect(new Collection(folder).header()).rejects.toMatchObject({
      name: 'SourceError',
      code: 'not-readable',
      message: expect.stringContaining(folder),
    })
  })

  it('is listed with what is needed to fetch more', async () => {
    const collection = new Collection(scratchFolder())
    expect(await collection.listing()).toEqual({ entries: [], broken: 0 })
    const entries = [entry(1), entry(2, { kind: 'directory', size: 0 }), entry(3, { size: null, modifiedAt: null })]
    expect(await collection.writeListing(entries)).toBe(3)
    expect(await collection.listing()).toEqual({ entries, broken: 0 })
  })

  it('is listed as far as its lines are whole', async () => {
    const collection = new Collection(scratchFolder())
    await collection.writeListing([entry(1), entry(2)])
    const file = join(collection.folder, 'listing.jsonl')
    appendFileSync(file, 'no line\n{"id":"../../etc/passwd","domain":"d","path":"p","kind":"file"}\n')
    appendFileSync(file, `${JSON.stringify(entry(3))}\n${JSON.stringify(entry(5)).slice(0, 40)}`)
    const { entries, broken } = await collection.listing()
    expect(entries.map(({ size }) => size)).toEqual([1, 2, 3])
    expect(broken).toBe(3)
  })

  it('keeps the list before while a new one is written, and after that failed', async () => {
    const collection = new Collection(scratchFolder())
    await collection.writeListing([entry(1)])
    async function* failing() {
      yield entry(2)
      expect((await collection.listing()).entries).toHaveLength(1)
      throw new Error('the line was cut')
    }
    await expect(collection.writeListing(failing())).rejects.toThrow('the line was cut')
    expect((await collection.listing()).entries.map(({ size }) => size)).toEqual([1])
  })
})

describe('a content that is fetched', () => {
  const { id } = entry(7)

  it('takes its name when it is whole, and goes on where it was cut off', async () => {
    const collection = new Collection(scratchFolder())
    const first = await collection.beginContent(id)
    await first.add(Buffer.from('seven '))
    await first.pause()
    expect(existsSync(collection.contentPath(id))).toBe(false)
    const second = await collection.beginContent(id)
    expect(second.size).toBe(6)
    await second.add(Buffer.from('strings'))
    expect(second.size).toBe(13)
    await second.keep()
    expect(readFileSync(collection.contentPath(id), 'utf8')).toBe('seven strings')
    expect(existsSync(second.part)).toBe(false)
  })

  it('loses what is not known to be right', async () => {
    const collection = new Collection(scratchFolder())
    const content = await collection.beginContent(id)
    await content.add(Buffer.from('seven wrong bytes'))
    await content.cutTo(6)
    await content.add(Buffer.from('strings'))
    await content.keep()
    expect(readFileSync(collection.contentPath(id), 'utf8')).toBe('seven strings')
  })

  it('is gone when it is thrown away, or forgotten', async () => {
    const collection = new Collection(scratchFolder())
    const content = await collection.beginContent(id)
    await content.add(Buffer.from('x'))
    await content.discard()
    expect((await collection.beginContent(id)).size).toBe(0)
    const whole = await collection.beginContent(id)
    await whole.add(Buffer.from('x'))
    await whole.keep()
    await collection.forget(id)
    expect(existsSync(collection.contentPath(id))).toBe(false)
    await expect(collection.forget(id)).resolves.toBeUndefined()
  })
})
