import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import type { Sighting } from '../categories/types.js'
import type { HandoverItem } from './format.js'
import { writePackage } from './package.js'
import { type PackageSubject, reportOf } from './report.js'
import { reportPage } from './report-page.js'
import { reportPdf } from './report-pdf.js'

const picture = (colour: string, kind: 'png' | 'jpeg') =>
  sharp({ create: { width: 40, height: 20, channels: 3, background: colour } })
    .toFormat(kind)
    .toBuffer()

const SUBJECT: PackageSubject = {
  jobNumber: 'A-2026-0001',
  owner: 'Odile Marchetti',
  device: 'Odile’s phone',
  sought: 'photos lost in May',
  answer: 'found in part: 12 of them',
  timeZone: 'Europe/Lisbon',
  notHad: ['Calls: none was found in any source that was read.'],
  reads: [
    {
      source: 'Odile’s phone (cable)',
      takenAt: '2026-11-14 20:15',
      looked: 'Looked through: Photos, Messages.',
      gaps: ['Photos: 3 without content: listed, but not in the source'],
      checksum: 'SHA-256 over its 9 lists and databases: 12ab',
    },
  ],
}
const COUNTS = { photos: { kept: 10, partial: 1 }, messages: { rebuilt: 20, elsewhere: 2 } }

const reportWith = async () =>
  reportOf(
    {
      ...SUBJECT,
      shop: { name: 'Harrow Mill Bench', address: '14 Lower Quay\nHarrow Mill', mark: await picture('#123', 'png') },
    },
    COUNTS,
    ['IMG_1.JPG: gone'],
    1,
    {
      writtenAt: new Date('2026-11-30T12:00:00Z'),
      signedBy: 'abcd ef01',
      pictures: [{ bytes: await picture('#a42', 'jpeg'), alt: 'IMG_2.JPG, binned', place: 'site/previews/a.jpg' }],
    },
  )

describe('the report', () => {
  it('is a document whose parts say what they are, and general tools find no fault in', async () => {
    const file = join(scratchFolder(), 'report.pdf')
    writeFileSync(file, await reportPdf(await reportWith()))
    // qpdf and Poppler, of Debian.
    expect(tool('qpdf', '--check', file)).toContain('No syntax or stream encoding errors')
    const structure = tool('sh', '-c', `pdfinfo -struct '${file}' 2>/dev/null`)
    const of = (type: string) => structure.match(new RegExp(`^ *${type}\\b`, 'gm'))?.length ?? 0
    expect(of('H1')).toBe(1)
    expect(of('H2')).toBe(7)
    expect(of('Figure')).toBe(2)
    expect(of('L')).toBe(4)
    // Facts and contents: six labels, and four heads of columns.
    expect(of('TH')).toBe(6 + 6)
    const facts = tool('pdfinfo', file)
    expect(facts).toMatch(/Tagged: +yes/)
    expect(facts).toMatch(/Title: +What was recovered/)
    expect(tool('sh', '-c', `grep -ac 'pdfuaid' '${file}'`).trim()).not.toBe('0')
  })

  it('says the same on its page and on paper: names, what was done, what is uncertain, what is missing', async () => {
    const file = join(scratchFolder(), 'report.pdf')
    const report = await reportWith()
    writeFileSync(file, await reportPdf(report))
    const paper = tool('pdftotext', '-layout', file, '-').replace(/\s+/g, ' ')
    const page = reportPage(report).replace(/&#(\d+);/g, (_, code) => String.fromCharCode(code))
    for (const words of [
      ...['Harrow Mill Bench', '14 Lower Quay', 'Odile Marchetti', 'Odile’s phone (cable)', 'A-2026-0001'],
      ...[
        'as it was on 2026-11-14 20:15',
        'Looked through: Photos, Messages.',
        '3 without content',
        '9 lists and databases: 12ab',
      ],
      ...['One item came back in part', '20 items had been deleted', '2 items stand on another device'],
      ...['one item, not counted above', 'IMG_1.JPG: gone', 'abcd ef01', 'Calls: none was found'],
    ]) {
      expect(paper).toContain(words)
      expect(page).toContain(words)
    }
    // The sums of the table: what was found of a kind, and of all.
    expect(paper).toMatch(/Photos 10 0 1 0 11/)
    expect(paper).toMatch(/All 10 20 1 2 33/)
    expect(page).toContain('src="site/previews/a.jpg"')
  })
})

describe('the receipt', () => {
  it('names what was handed over, and the checksum by which the package is known', async () => {
    const to = join(scratchFolder(), 'package')
    async function* items(): AsyncGenerator<HandoverItem> {
      yield { sighting: call, standing: 'kept', open: async () => undefined, reveal: async () => undefined }
    }
    await writePackage(items(), { to, subject: SUBJECT })
    const words = tool('pdftotext', '-layout', join(to, 'receipt.pdf'), '-').replace(/\s+/g, ' ')
    const [sum = ''] = tool('sha256sum', join(to, 'manifest-sha256.txt')).split(' ')
    expect(words.replaceAll(' ', '')).toContain(sum)
    expect(words).toContain('Calls 1')
    expect(words).toContain('Odile Marchetti')
    for (const line of ['Place and date', 'Handed over by', 'Received by']) expect(words).toContain(line)
    expect(readFileSync(join(to, 'tagmanifest-sha256.txt'), 'utf8')).toContain('receipt.pdf')
    expect(tool('qpdf', '--check', join(to, 'receipt.pdf'))).toContain('No syntax')
  })
})

const call: Sighting = {
  category: 'calls',
  condition: 'live',
  when: '2026-05-01T10:00:00.000Z',
  title: 'Bram Okafor',
  text: null,
  fields: { address: '+12025550101', direction: 'in' },
  content: null,
  origin: {
    ...{ domain: 'HomeDomain', path: 'Library/CallHistoryDB/CallHistory.storedata', table: 'ZCALLRECORD', rowid: 1 },
    ...{ place: 'live', page: 3, offset: 100 },
  },
  missing: [],
  confidence: 1,
}
