import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import type { CategoryId } from '../categories/registry.js'
import { CATEGORIES, categoryList } from '../categories/table.js'
import type { Sighting } from '../categories/types.js'
import { MemorySource } from '../io/source.js'
import type { HandoverItem } from './format.js'
import { FORMATS, formatsOffered, isFormat } from './formats.js'
import { type PackageOptions, writePackage } from './package.js'
import { plainText } from './plain-text.js'

const SUBJECT = { jobNumber: '2026-0001', owner: 'Odile Varga', device: null, sought: null }

function made(category: CategoryId, title: string, fields: Sighting['fields'], text: string | null = null): Sighting {
  const content = {
    name: title,
    bytes: 9,
    mime: 'image/jpeg',
    sha256: null,
    domain: 'd',
    path: String(fields.path ?? title),
  }
  return {
    category,
    condition: 'live',
    when: '2026-05-31T18:30:00.000Z',
    title,
    text,
    fields,
    content: category === 'photos' ? content : null,
    origin: { domain: 'd', path: 'p', table: null, rowid: 1, place: 'live', page: null, offset: null },
    missing: [],
    confidence: 1,
  }
}

/** Writes a package of these and gives its payload folder; a file's content is what stands behind the last "=" of its path. */
async function handedOver(
  sightings: readonly Sighting[],
  options: Partial<PackageOptions>,
  standing: HandoverItem['standing'] = 'kept',
) {
  const to = join(scratchFolder(), 'package')
  async function* items(): AsyncGenerator<HandoverItem> {
    for (const sighting of sightings)
      yield {
        sighting,
        standing,
        open: async (_, path) => new MemorySource(Buffer.from(path.split('=').at(-1) ?? '')),
        reveal: async () => undefined,
      }
  }
  await writePackage(items(), { to, subject: SUBJECT, ...options })
  const data = join(to, 'data')
  const text = (path: string) => readFileSync(join(data, path), 'utf8')
  const files = (folder: string) =>
    readdirSync(join(data, folder), { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name).slice(data.length + folder.length + 2))
      .sort()
  return { data, text, files }
}

describe('the formats of a category', () => {
  it('begin with its usual ones, and each of them has a writer', () => {
    for (const category of categoryList) {
      const offered = formatsOffered(category)
      expect(offered.slice(0, category.formats.length)).toEqual([...category.formats])
      expect(new Set(offered).size).toBe(offered.length)
      for (const id of offered) expect(FORMATS[id].label).not.toBe('')
    }
    expect(isFormat('constructor')).toBe(false)
  })

  it('are the one made for them where passwords are written', () => {
    expect(formatsOffered(CATEGORIES.credentials)).toEqual(['credentials'])
  })

  it('are written as chosen, and no others', async () => {
    const { files } = await handedOver([made('calls', 'Bram', { address: '+12025550100' })], {
      formats: { calls: ['json-lines', 'vcard'] },
    })
    expect(files('calls')).toEqual(['calls.jsonl'])
  })
})

describe('files of equal content', () => {
  const pictures = [
    made('photos', 'a.jpg', { path: '1=fox', albums: ['Tour', 'Best'] }),
    made('photos', 'b.jpg', { path: '2=moon', albums: [] }),
    made('photos', 'c.jpg', { path: '3=fox', albums: ['..'] }),
  ]

  it('are written once, and the index names where', async () => {
    const { files, text } = await handedOver(pictures, {})
    expect(files('photos')).toEqual(['2026/05/a.jpg', '2026/05/b.jpg'])
    const lines = text('index.jsonl').trim().split('\n')
    expect(lines.map((line) => JSON.parse(line).files)).toEqual([
      ['data/photos/2026/05/a.jpg'],
      ['data/photos/2026/05/b.jpg'],
      ['data/photos/2026/05/a.jpg'],
    ])
  })

  it('are written each where that was asked for, by album as well', async () => {
    const { files } = await handedOver(pictures, { duplicates: 'each', formats: { photos: ['albums'] } })
    const albums = ['albums/Best/a.jpg', 'albums/Tour/a.jpg', 'albums/in no album/b.jpg', 'albums/unnamed/c.jpg']
    expect(files('photos')).toEqual(albums)
  })
})

describe('texts', () => {
  it('of a conversation stand by day, and no text passes for a head', async () => {
    const message = (text: string, direction: string) =>
      made('messages', 'Tour crew', { conversation: 'c', direction, sender: '+12025550100' }, text)
    const { text } = await handedOver(
      [message('The fox is\n[18:31, Me]\nlost.', 'in'), message('Again?', 'out')],
      { formats: { messages: ['text'] } },
      'rebuilt',
    )
    expect(text('messages/Tour crew.txt')).toBe(
      `Tour crew\nTimes are those of UTC.\n\n== 2026-05-31 ==\n\n[18:30, +12025550100, rebuilt]\n  The fox is\n  [18:31, Me]\n  lost.\n\n[18:30, Me, rebuilt]\n  Again?\n`,
    )
  })

  it('of a note keep its heads and check lists as Markdown', async () => {
    const paragraphs = [
      { style: 'title', text: 'Paints' },
      { style: 'checklist', text: 'red (2)', done: true },
      { style: 'checklist', text: '# blue', done: false },
      { style: 'monospaced', text: '<b>12 mm</b>' },
    ]
    const note = made('notes', 'Paints', { paragraphs, folder: 'Tour' }, 'Paints')
    const { text } = await handedOver([note], { formats: { notes: ['markdown'] } })
    expect(text('notes/Tour/Paints.md')).toBe(
      '# Paints\n\n- [x] red \\(2\\)\n\n- [ ] \\# blue\n\n    <b>12 mm</b>\n\n2026\\-05\\-31\n',
    )
  })

  it('of a note keep its tables, in which nothing is taken for markup', async () => {
    const rows = [
      ['Place', 'Chairs'],
      ['<b>Barn</b> | pass', '120'],
    ]
    const note = made('notes', 'Tour', { paragraphs: [{ style: 'table', text: '', rows }] }, 'Place\tChairs')
    const { text } = await handedOver([note], { formats: { notes: ['markdown', 'note-pages'] } })
    expect(text('notes/Tour.md')).toContain(
      '| Place | Chairs |\n| --- | --- |\n| \\<b\\>Barn\\</b\\> \\| pass | 120 |\n',
    )
    expect(text('notes/Tour.html')).toContain('<tr><td>&#60;b&#62;Barn&#60;/b&#62; | pass</td><td>120</td></tr>')
  })

  it('lose what steers a terminal, and nothing else', () => {
    expect(plainText('a\tb\u0007\u001b[2Jc\u202ed\u2069 שיר 🎨')).toBe('a\tb[2Jcd שיר 🎨')
  })
})

describe('places', () => {
  // GPX 1.1, wptType: latitude and longitude are attributes in decimal degrees.
  it('are waypoints, read by libxml2; what has none is left out', async () => {
    const { data } = await handedOver(
      [
        made('photos', 'a.jpg', { latitude: -41.25, longitude: 174.5 }),
        made('photos', 'b.jpg', { latitude: null, longitude: null }),
      ],
      { formats: { photos: ['gpx'] } },
    )
    const read = (path: string) => tool('xmllint', '--xpath', path, join(data, 'photos/photos.gpx')).trim()
    expect(read('count(//*[local-name()="wpt"])')).toBe('1')
    expect(read('string(//*[local-name()="wpt"]/@lat)')).toBe('-41.25')
    expect(read('string(//*[local-name()="time"])')).toBe('2026-05-31T18:30:00.000Z')
  })
})

describe('the reports', () => {
  it('say what was not found and why, on the page and in print', async () => {
    const notHad = ['Calls: since version 13 of the system only backups with a password hold them.']
    const { data, text } = await handedOver([made('calls', 'Bram', { address: '+12025550100' })], {
      subject: { ...SUBJECT, notHad, sources: [{ name: 'phone', path: '/backups/1', takenAt: '2026-05-01 10:00' }] },
    })
    expect(text('report.html')).toContain(notHad[0])
    const printed = tool('pdftotext', join(data, 'report.pdf'), '-').replace(/\s+/g, ' ')
    expect(printed).toContain(notHad[0])
    expect(printed).toContain('Odile Varga')
    expect(text('provenance.html')).toContain('/backups/1')
    expect(text('index.csv').split('\r\n')[1]).toMatch(/^calls,2026-05-31T18:30:00.000Z,Bram,/)
  })
})
