import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { mutate } from '@lumbrin/standins/mutate'
import { Random } from '@lumbrin/standins/random'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { all, scratchFolder, tool, warnings } from '../../../../../tests/setup/fixtures.js'
import { MemorySource } from '../../io/source.js'
import { carve } from './carve.js'

/** Bytes in which no mark stands. */
const calm = (length: number) => Buffer.alloc(length, 0x11)

/** Sound by SoX, as its own encoders write it. */
function sounds(folder: string): Record<string, Buffer> {
  const made: Record<string, Buffer> = {}
  for (const ending of ['flac', 'ogg', 'aiff', 'mp3', 'wav']) {
    const file = join(folder, `tone.${ending}`)
    tool('sox', '-n', '-r', '22050', '-c', '1', file, 'synth', '2', 'sine', '300-900')
    made[ending] = readFileSync(file)
  }
  // A tag as players write it before the frames: its length in seven bits a byte.
  const tag = Buffer.concat([Buffer.from('ID3\x03\0\0\0\0\x01\0', 'latin1'), Buffer.alloc(128)])
  made['mp3 with a tag'] = Buffer.concat([tag, made.mp3 as Buffer])
  return made
}

const PACKAGES = `import sys, zipfile, openpyxl, vobject
folder = sys.argv[1]
book = openpyxl.Workbook(); book.active.append(['moon', 3]); book.save(folder + '/a.xlsx')
def package(name, mime, parts):
    with zipfile.ZipFile(folder + '/' + name, 'w', zipfile.ZIP_DEFLATED) as z:
        if mime: z.writestr(zipfile.ZipInfo('mimetype'), mime)
        for part in parts: z.writestr(part, '<x>' + 'fox ' * 300 + '</x>')
package('a.odt', 'application/vnd.oasis.opendocument.text', ['content.xml', 'META-INF/manifest.xml'])
package('a.epub', 'application/epub+zip', ['META-INF/container.xml', 'page.xhtml'])
package('a.docx', None, ['[Content_Types].xml', '_rels/.rels', 'word/document.xml'])
package('a.pptx', None, ['[Content_Types].xml', 'ppt/presentation.xml'])
package('a.zip', None, ['plain.txt'])
cards = ''
for name in ['Odile', 'Bram']:
    card = vobject.vCard(); card.add('fn').value = name; card.add('n').value = vobject.vcard.Name(family=name); cards += card.serialize()
open(folder + '/a.vcf', 'w', newline='').write(cards)
calendar = vobject.iCalendar(); event = calendar.add('vevent'); event.add('summary').value = 'Matinee'
event.add('dtstart').value = __import__('datetime').datetime(2026, 5, 1, 10)
open(folder + '/a.ics', 'w', newline='').write(calendar.serialize())`

/** Archives, cards and calendars by general libraries. */
function packages(folder: string): Record<string, Buffer> {
  tool('/usr/bin/python3', '-c', PACKAGES, folder)
  const endings = ['xlsx', 'odt', 'epub', 'docx', 'pptx', 'zip', 'vcf', 'ics']
  return Object.fromEntries(endings.map((ending) => [ending, readFileSync(join(folder, `a.${ending}`))]))
}

const element = (id: string, content: Buffer, size = true) =>
  Buffer.concat([
    Buffer.from(id, 'hex'),
    size
      ? Buffer.of(0x10 | (content.length >> 24), content.length >> 16, content.length >> 8, content.length)
      : Buffer.of(0xff),
    content,
  ])

/** A film of elements (RFC 9559), as it is written at once, or while it is filmed: then lengths are not known. */
function matroska(kind: string, isLive: boolean): Buffer {
  const block = element('a3', calm(500))
  const clusters = [0, 1, 2].map((n) =>
    element('1f43b675', Buffer.concat([element('e7', Buffer.of(n)), block, block]), !isLive),
  )
  const tracks = element('1654ae6b', element('ae', calm(40)))
  const segment = element('18538067', Buffer.concat([element('1549a966', calm(30)), tracks, ...clusters]), !isLive)
  return Buffer.concat([element('1a45dfa3', element('4282', Buffer.from(kind))), segment])
}

function riff(form: string, ...chunks: [string, Buffer][]): Buffer {
  const parts = chunks.map(([name, content]) => {
    const head = Buffer.from(`${name}0000`)
    head.writeUInt32LE(content.length, 4)
    return Buffer.concat([head, content])
  })
  const body = Buffer.concat([Buffer.from(form), ...parts])
  const head = Buffer.from('RIFF0000')
  head.writeUInt32LE(body.length, 4)
  return Buffer.concat([head, body])
}

function bitmap(): Buffer {
  const bytes = Buffer.alloc(54 + 32 * 20 * 3, 0x11)
  bytes.fill(0, 0, 54)
  bytes.write('BM')
  for (const [at, value] of [
    [2, bytes.length],
    [10, 54],
    [14, 40],
    [18, 32],
    [22, 20],
  ] as const)
    bytes.writeUInt32LE(value, at)
  bytes.writeUInt16LE(1, 26)
  bytes.writeUInt16LE(24, 28)
  return bytes
}

async function wholeFiles(): Promise<Record<string, Buffer>> {
  const folder = scratchFolder()
  const picture = sharp({ create: { width: 90, height: 70, channels: 3, background: 'teal' } })
  return {
    ...sounds(folder),
    ...packages(folder),
    tif: await picture.clone().tiff({ compression: 'none' }).toBuffer(),
    'tif in tiles': await picture.clone().tiff({ compression: 'lzw', tile: true }).toBuffer(),
    mkv: matroska('matroska', false),
    webm: matroska('webm', true),
    avi: riff('AVI ', ['LIST', calm(200)], ['LIST', calm(3000)], ['idx1', calm(64)]),
    bmp: bitmap(),
    rtf: Buffer.from('{\\rtf1\\ansi{\\fonttbl\\f0 Serif;}\\f0 The fox \\{waits\\} by the moon.\\par\n}\n'),
  }
}

describe('kinds of files that are carved', () => {
  it('are given back byte for byte, told by what they are', async () => {
    const files = Object.entries(await wholeFiles())
    for (const [name, bytes] of files) {
      const { list, report } = warnings()
      const found = await all(carve(new MemorySource(Buffer.concat([calm(777), bytes, calm(5000)])), report))
      const whole = found.filter(({ wholeness }) => wholeness === 'whole')
      expect(
        whole.map(({ ending, start, end }) => [ending, start, end]),
        name,
      ).toEqual([[name.split(' ')[0], 777, 777 + bytes.length]])
      expect(list).toEqual([])
    }
    expect(files.length).toBeGreaterThan(20)
  })

  it('are not called whole without their end, but where nothing says how long they are', async () => {
    for (const [name, bytes] of Object.entries(await wholeFiles()))
      for (const share of [0.3, 0.6, 0.95]) {
        const cut = Buffer.concat([calm(100), bytes.subarray(0, Math.floor(bytes.length * share))])
        const found = await all(carve(new MemorySource(cut), () => {}))
        const own = found.filter(({ wholeness, start }) => wholeness === 'whole' && start === 100)
        // A file of two cards of which one is there; frames of sound and clusters of film that end between two.
        if (!/vcf|mp3|webm/.test(name)) expect(own, `${name} ${share}`).toEqual([])
      }
  })

  it('end in finds or in nothing, whatever byte is wrong, and never behind the end', async () => {
    for (const [name, bytes] of Object.entries(await wholeFiles()))
      for (let seed = 1; seed <= 30; seed++) {
        const damaged = mutate(bytes.subarray(0, 40_000), new Random(seed))
        for await (const { start, end } of carve(new MemorySource(damaged), () => {})) {
          expect(start, name).toBeLessThan(end)
          expect(end, name).toBeLessThanOrEqual(damaged.length)
        }
      }
  })

  it('end in time on bytes of nothing but their beginnings', async () => {
    for (const head of [
      'OggS\0\x02',
      'fLaC\0\0\0\x22',
      'II*\0\x08\0\0\0',
      'ID3\x03\0\0\0\0\0\0',
      '{\\rtf1',
      'BEGIN:VCARD\nVERSION:3\n',
      '\x1a\x45\xdf\xa3\x81webm',
    ]) {
      const bytes = Buffer.alloc(400_000, Buffer.from(head, 'latin1'))
      const began = performance.now()
      for await (const one of carve(new MemorySource(bytes), () => {})) expect(one.wholeness).not.toBe('whole')
      expect(performance.now() - began, head).toBeLessThan(20_000)
    }
  })

  it('hold the metadata of a picture for no picture of its own', async () => {
    const jpeg = await sharp({ create: { width: 64, height: 48, channels: 3, background: 'teal' } })
      .withExif({ IFD0: { Make: 'Puppet' } })
      .jpeg()
      .toBuffer()
    // The end of the picture is gone, so that what lies in it is looked at by itself.
    const found = await all(carve(new MemorySource(jpeg.subarray(0, jpeg.length - 200)), () => {}))
    expect(found.filter(({ mime }) => mime === 'image/tiff')).toEqual([])
  })
})
