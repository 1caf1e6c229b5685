import { appendFileSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { checkBag } from './bag-check.js'
import type { HandoverItem } from './format.js'
import { type PackageSummary, writePackage } from './package.js'

const photo = (name: string, condition: 'live' | 'partial' = 'live'): HandoverItem => ({
  standing: condition === 'live' ? 'kept' : 'partial',
  open: async () => new MemorySource(Buffer.from(`pixels of ${name}`)),
  reveal: async () => undefined,
  sighting: {
    category: 'photos',
    condition,
    when: '2026-05-01T10:00:00Z',
    title: name,
    text: null,
    fields: { uuid: name },
    content: { name: 'IMG_0001.JPG', bytes: 9, mime: 'image/jpeg', sha256: null, domain: 'd', path: name },
    origin: { domain: 'd', path: 'p', table: null, rowid: null, place: 'live', page: null, offset: null },
    missing: [],
    confidence: 1,
  },
})

async function handOver(to: string, ...items: HandoverItem[]): Promise<PackageSummary> {
  async function* all() {
    yield* items
  }
  return writePackage(all(), { to, subject: { jobNumber: null, owner: null, device: null, sought: null } })
}

/** What sha256sum says of the manifests; it fails where a file differs. */
const verified = (to: string) => {
  const list = (name: string) => tool('sh', '-c', `cd '${to}' && sha256sum --strict --quiet -c ${name}`)
  return list('manifest-sha256.txt') + list('tagmanifest-sha256.txt')
}

describe('a later handover into the same place', () => {
  it('adds only what is new, and sha256sum verifies all of it', async () => {
    const to = join(scratchFolder(), 'package')
    expect(await handOver(to, photo('fox'), photo('moon'))).toMatchObject({ items: 2 })
    const before = readFileSync(join(to, 'data/photos/2026/05/IMG_0001.JPG'), 'utf8')
    expect(await handOver(to, photo('fox'), photo('barn'), photo('moon'))).toMatchObject({ items: 1 })
    expect(readFileSync(join(to, 'data/photos/2026/05/IMG_0001.JPG'), 'utf8')).toBe(before)
    expect(readFileSync(join(to, 'data/photos/2026/05/IMG_0001 (3).JPG'), 'utf8')).toBe('pixels of barn')
    expect(readdirSync(join(to, 'data')).sort()).toEqual([
      'index (2).csv',
      'index (2).jsonl',
      'index.csv',
      'index.jsonl',
      'photos',
      'provenance (2).html',
      'provenance.html',
      'report (2).html',
      'report (2).pdf',
      'report.html',
      'report.pdf',
    ])
    expect(verified(to)).toBe('')
    expect(readFileSync(join(to, 'bag-info.txt'), 'utf8')).toMatch(/Payload-Oxum: \d+\.13\n/)
    expect(readdirSync(join(to, '..'))).toEqual(['package'])
  })

  it('gives an item again that came in part before and is whole now', async () => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox', 'partial'))
    expect(await handOver(to, photo('fox'))).toMatchObject({ items: 1 })
    expect(await handOver(to, photo('fox'))).toMatchObject({ items: 0 })
  })

  it('takes back what a crash left half added', async () => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox'))
    writeFileSync(join(to, 'data/half.jpg'), 'half')
    writeFileSync(join(to, 'adding.json'), JSON.stringify(['data/half.jpg', '../../outside', 'data/report.html']))
    await handOver(to, photo('moon'))
    expect(readdirSync(join(to, 'data'))).not.toContain('half.jpg')
    expect(readdirSync(to)).not.toContain('adding.json')
    expect(verified(to)).toBe('')
  })

  it('goes on where the list of what is added was cut short', async () => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox'))
    writeFileSync(join(to, 'adding.json'), '["data/ha')
    expect(await checkBag(to)).toMatchObject({ altered: [], missing: [] })
    // A check changes nothing; only the next handover puts things in order.
    expect(readdirSync(to)).toContain('adding.json')
    await handOver(to, photo('moon'))
    expect(readdirSync(to)).not.toContain('adding.json')
    expect(verified(to)).toBe('')
  })

  it('refuses a package whose index was changed, and leaves it as it was', async () => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox'))
    appendFileSync(join(to, 'data/index.jsonl'), 'no line of ours\n')
    await expect(handOver(to, photo('moon'))).rejects.toMatchObject({ name: 'DestinationError' })
    expect(readdirSync(join(to, '..'))).toEqual(['package'])
    expect(readdirSync(to)).not.toContain('adding.json')
  })

  it('refuses a folder whose manifest names what lies outside', async () => {
    const to = join(scratchFolder(), 'package')
    mkdirSync(to)
    writeFileSync(join(to, 'bagit.txt'), 'BagIt-Version: 1.0\n')
    writeFileSync(join(to, 'manifest-sha256.txt'), `${'0'.repeat(64)}  data/../../secret\n`)
    await expect(handOver(to, photo('fox'))).rejects.toMatchObject({ name: 'DestinationError' })
  })
})

describe('a handover that was changed', () => {
  it('says which files differ, are gone, or are not its own', async () => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox'), photo('moon'))
    expect(await checkBag(to)).toEqual({ checked: 7, altered: [], missing: [], unlisted: [] })
    appendFileSync(join(to, 'data/report.html'), ' ')
    rmSync(join(to, 'data/photos/2026/05/IMG_0001.JPG'))
    writeFileSync(join(to, 'data/mine.txt'), 'mine')
    expect(await checkBag(to)).toEqual({
      checked: 7,
      altered: ['data/report.html'],
      missing: ['data/photos/2026/05/IMG_0001.JPG'],
      unlisted: ['data/mine.txt'],
    })
    await expect(checkBag(join(to, 'nowhere'))).rejects.toMatchObject({ name: 'DestinationError' })
  })
})
