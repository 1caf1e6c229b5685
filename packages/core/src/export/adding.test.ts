import { createHash } from 'node:crypto'
import { appendFileSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool, withBadSector } from '../../../../tests/setup/fixtures.js'
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

/** The same for a job; null: for none. */
async function handOverOf(jobUid: string | null, to: string, ...items: HandoverItem[]): Promise<PackageSummary> {
  async function* all() {
    yield* items
  }
  const subject = { jobNumber: '2026-0001', jobUid, owner: null, device: null, sought: null }
  return writePackage(all(), { to, subject })
}

/** What the index of a package lists, in its order. */
const titlesIn = (to: string): string[] =>
  readFileSync(join(to, 'data/index.jsonl'), 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line).title)

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
    // Report and index say what all of the package holds.
    expect(readdirSync(join(to, 'data')).sort()).toEqual([
      'index.csv',
      'index.jsonl',
      'index.xlsx',
      'photos',
      'provenance.html',
      'report.html',
      'report.pdf',
    ])
    expect(titlesIn(to)).toEqual(['fox', 'moon', 'barn'])
    expect(readFileSync(join(to, 'data/report.html'), 'utf8')).toContain('<td>Photos</td><td class="n">3</td>')
    expect(verified(to)).toBe('')
    expect(readFileSync(join(to, 'bag-info.txt'), 'utf8')).toMatch(/Payload-Oxum: \d+\.9\n/)
    expect(readdirSync(to).sort()).toEqual([
      'bag-info.txt',
      'bagit.txt',
      'data',
      'manifest-sha256.txt',
      'receipt.pdf',
      'tagmanifest-sha256.txt',
    ])
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
    // Killed after files were moved, before the new manifest.
    writeFileSync(join(to, 'data/half.jpg'), 'half')
    mkdirSync(join(to, 'replaced/data'), { recursive: true })
    renameSync(join(to, 'data/report.html'), join(to, 'replaced/data/report.html'))
    writeFileSync(join(to, 'data/report.html'), 'a newer report')
    const adding = {
      added: ['data/half.jpg', '../../outside', 'data/photos/2026/05/IMG_0001.JPG'],
      replaced: ['data/report.html', '../outside'],
      manifest: '0'.repeat(64),
      tags: {},
    }
    writeFileSync(join(to, 'adding.json'), JSON.stringify(adding))
    await handOver(to, photo('moon'))
    expect(readdirSync(join(to, 'data'))).not.toContain('half.jpg')
    expect(readdirSync(to)).not.toContain('adding.json')
    expect(readdirSync(to)).not.toContain('replaced')
    expect(titlesIn(to)).toEqual(['fox', 'moon'])
    expect(verified(to)).toBe('')
  })

  it('completes what a crash left almost added', async () => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox'))
    // Killed after the new manifest, before the other tags said the same.
    const manifest = readFileSync(join(to, 'manifest-sha256.txt'))
    const tags = Object.fromEntries(
      ['bagit.txt', 'bag-info.txt', 'tagmanifest-sha256.txt'].map((name) => [
        name,
        readFileSync(join(to, name), 'utf8'),
      ]),
    )
    writeFileSync(join(to, 'tagmanifest-sha256.txt'), 'of before')
    mkdirSync(join(to, 'replaced/data'), { recursive: true })
    writeFileSync(join(to, 'replaced/data/report.html'), 'of before')
    const sha256 = createHash('sha256').update(manifest).digest('hex')
    writeFileSync(
      join(to, 'adding.json'),
      JSON.stringify({ added: [], replaced: ['data/report.html'], manifest: sha256, tags }),
    )
    await handOver(to, photo('moon'))
    expect(titlesIn(to)).toEqual(['fox', 'moon'])
    expect(readdirSync(to)).not.toContain('replaced')
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

  // docs/truth.md, rule 19.
  it.each<[string, (to: string) => void]>([
    ['whose index was changed', (to) => appendFileSync(join(to, 'data/index.jsonl'), 'no line of ours\n')],
    [
      'of which a file was changed',
      (to) => writeFileSync(join(to, 'data/photos/2026/05/IMG_0001.JPG'), 'other pixels'),
    ],
    ['of which a file is gone', (to) => rmSync(join(to, 'data/report.pdf'))],
    ['into which something was put', (to) => writeFileSync(join(to, 'data/mine.txt'), 'mine')],
  ])('refuses a package %s, and leaves it as it was', async (_, change) => {
    const to = join(scratchFolder(), 'package')
    await handOver(to, photo('fox'))
    change(to)
    const before = readdirSync(to, { recursive: true }).sort()
    await expect(handOver(to, photo('moon'))).rejects.toMatchObject({
      name: 'DestinationError',
      message: expect.stringContaining('Nothing was written'),
    })
    expect(readdirSync(to, { recursive: true }).sort()).toEqual(before)
    expect(readdirSync(join(to, '..'))).toEqual(['package'])
  })

  it('refuses the package of another job, and one that belongs to none', async () => {
    const to = join(scratchFolder(), 'package')
    await handOverOf('job-a', to, photo('fox'))
    expect(readFileSync(join(to, 'bag-info.txt'), 'utf8')).toContain('Bag-Group-Identifier: job-a\n')
    for (const other of ['job-b', null])
      await expect(handOverOf(other, to, photo('moon'))).rejects.toMatchObject({
        name: 'DestinationError',
        message: expect.stringContaining('belongs to job 2026-0001'),
      })
    expect(await handOverOf('job-a', to, photo('moon'))).toMatchObject({ items: 1 })
    expect(verified(to)).toBe('')
  })

  it('tries again what could not be written before, and never counts it as handed over', async () => {
    const to = join(scratchFolder(), 'package')
    const lacking = { ...photo('moon'), open: async () => undefined }
    const problem = 'moon: its content is not in the source.'
    expect(await handOver(to, photo('fox'), lacking)).toMatchObject({ items: 1, missed: 1, problems: [problem] })
    const report = readFileSync(join(to, 'data/report.html'), 'utf8')
    expect(report).toContain('<td>Photos</td><td class="n">1</td>')
    expect(report).toContain('What could not be written: one item, not counted above')
    expect(await handOver(to, photo('fox'), photo('moon'))).toMatchObject({ items: 1, missed: 0 })
    expect(titlesIn(to)).toEqual(['fox', 'moon'])
    expect(verified(to)).toBe('')
  })

  it('hands over everything else where one file cannot be read to its end, and tells of it', async () => {
    const to = join(scratchFolder(), 'package')
    const told: string[] = []
    const bytes = Buffer.alloc(3 << 20, 'pixels')
    const bad: HandoverItem = {
      ...photo('moon'),
      open: async () => withBadSector(bytes, 2 << 20, (2 << 20) + 4096),
      unreadable: () => told.push('moon'),
    }
    const summary = await handOver(to, photo('fox'), bad, photo('owl'))
    expect(summary).toMatchObject({ items: 2, missed: 1 })
    expect(summary.problems).toEqual([expect.stringMatching(/^moon: its content cannot be read \(.*EIO.*\)\.$/)])
    expect(told).toEqual(['moon'])
    expect(verified(to)).toBe('')
    const pictures = readdirSync(join(to, 'data', 'photos'), { recursive: true, withFileTypes: true })
    expect(pictures.filter((entry) => entry.isFile())).toHaveLength(2)
    expect(await handOver(to, photo('moon')), 'it comes once it can be read').toMatchObject({ items: 1, missed: 0 })
    expect(verified(to)).toBe('')
  })

  it('hands over a message whose attachment cannot be read', async () => {
    const to = join(scratchFolder(), 'package')
    const attachment = { name: 'stage.jpg', mime: 'image/jpeg', bytes: 6, domain: 'd', path: 'stage', sha256: null }
    const { sighting } = photo('moon')
    const message: HandoverItem = {
      ...photo('moon'),
      open: async () => withBadSector(Buffer.from('pixels'), 0, 1),
      sighting: {
        ...sighting,
        category: 'messages',
        text: 'Look at the moon',
        content: null,
        fields: { conversation: 'c', attachments: [attachment] },
      },
    }
    const { items, problems } = await handOver(to, message)
    expect(items).toBe(1)
    expect(problems).toEqual([expect.stringContaining('stage.jpg: its content cannot be read')])
    expect(readFileSync(join(to, 'data/messages/moon.html'), 'utf8')).toContain('Look at the moon')
    expect(verified(to)).toBe('')
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
    expect(await checkBag(to)).toEqual({ checked: 8, altered: [], missing: [], unlisted: [], signature: 'none' })
    appendFileSync(join(to, 'data/report.html'), ' ')
    rmSync(join(to, 'data/photos/2026/05/IMG_0001.JPG'))
    writeFileSync(join(to, 'data/mine.txt'), 'mine')
    expect(await checkBag(to)).toEqual({
      checked: 8,
      altered: ['data/report.html'],
      missing: ['data/photos/2026/05/IMG_0001.JPG'],
      unlisted: ['data/mine.txt'],
      signature: 'none',
    })
    await expect(checkBag(join(to, 'nowhere'))).rejects.toMatchObject({ name: 'DestinationError' })
  })
})
