import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { buildBinary } from 'plist'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { all, databaseOf, scratchFolder, tool, warnings, withBadSector } from '../../../../../tests/setup/fixtures.js'
import { reportPdf } from '../../export/report-pdf.js'
import { MemorySource } from '../../io/source.js'
import { carve } from './carve.js'

const noise = (seed: number, length: number): Buffer => {
  const bytes = Buffer.alloc(length)
  let state = seed
  for (let i = 0; i < length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    bytes[i] = state >>> 24
  }
  return bytes
}

const picture = (seed: number) => sharp(noise(seed, 64 * 48 * 3), { raw: { width: 64, height: 48, channels: 3 } })

const box = (name: string, content: Buffer): Buffer => {
  const head = Buffer.alloc(8)
  head.writeUInt32BE(8 + content.length)
  head.write(name, 4, 'latin1')
  return Buffer.concat([head, content])
}

function wav(): Buffer {
  const data = noise(5, 2000)
  const head = Buffer.alloc(44)
  head.write('RIFF', 0)
  head.writeUInt32LE(36 + data.length, 4)
  head.write('WAVEfmt ', 8)
  head.writeUInt32LE(16, 16)
  head.writeUInt32LE(0x10001, 20)
  head.write('data', 36)
  head.writeUInt32LE(data.length, 40)
  return Buffer.concat([head, data])
}

function caf(): Buffer {
  const chunk = (name: string, content: Buffer) => {
    const head = Buffer.alloc(12)
    head.write(name, 0)
    head.writeBigUInt64BE(BigInt(content.length), 4)
    return Buffer.concat([head, content])
  }
  return Buffer.concat([
    Buffer.from('caff\0\x01\0\0', 'latin1'),
    chunk('desc', Buffer.alloc(32)),
    chunk('data', noise(6, 900)),
  ])
}

const amr = (): Buffer =>
  Buffer.concat([
    Buffer.from('#!AMR\n'),
    ...Array.from({ length: 40 }, (_, i) => Buffer.concat([Buffer.of(0x3c), noise(i, 31)])),
  ])

/** One whole file of each kind, made by other programs and libraries where there are any. */
async function wholeFiles(): Promise<Record<string, Buffer>> {
  const folder = scratchFolder()
  writeFileSync(join(folder, 'a.png'), await picture(1).png().toBuffer())
  tool('heif-enc', '-q', '60', '-o', join(folder, 'a.heic'), join(folder, 'a.png'))
  mkdirSync(join(folder, 'z'))
  writeFileSync(join(folder, 'z/one.txt'), noise(8, 3000))
  tool('/usr/bin/python3', '-m', 'zipfile', '-c', join(folder, 'a.zip'), join(folder, 'z'))
  const report = {
    title: 'Puppets',
    shop: null,
    reads: [],
    pictures: [],
    uncertain: [],
    writtenAt: '',
    facts: [],
    kinds: [],
    notHad: [],
    problems: [],
    missed: 0,
    check: [],
  }
  const film = [
    box('ftyp', Buffer.from('isom\0\0\x02\0isommp41', 'latin1')),
    box('moov', noise(9, 400)),
    box('mdat', noise(10, 5000)),
  ]
  const progressive = await picture(3).jpeg({ progressive: true }).toBuffer()
  return {
    'image/jpeg': await picture(2)
      .jpeg({ quality: 80 })
      .withMetadata({ exif: { IFD0: { Copyright: 'The theatre' } } })
      .toBuffer(),
    'image/jpeg progressive': progressive,
    'image/png': readFileSync(join(folder, 'a.png')),
    'image/gif': await picture(4).gif().toBuffer(),
    'image/webp': await picture(5).webp().toBuffer(),
    'image/heic': readFileSync(join(folder, 'a.heic')),
    'video/mp4': Buffer.concat(film),
    'audio/wav': wav(),
    'audio/x-caf': caf(),
    'audio/amr': amr(),
    'application/pdf': Buffer.from(await reportPdf(report)),
    'application/zip': readFileSync(join(folder, 'a.zip')),
    'application/vnd.sqlite3': databaseOf('CREATE TABLE t (a); INSERT INTO t VALUES (randomblob(900));'),
    'application/x-plist': Buffer.from(buildBinary({ name: 'fox', list: [1, 2, 3] })),
    'application/x-plist xml': Buffer.from(
      '<?xml version="1.0"?>\n<plist version="1.0"><string>moon</string></plist>\n',
    ),
  }
}

/** Noise in which no mark stands by chance. */
function calm(seed: number, length: number): Buffer {
  const bytes = noise(seed, length)
  for (let i = 0; i < length; i++)
    if ([0xff, 0x89, 0x47, 0x66, 0x52, 0x63, 0x23, 0x25, 0x50, 0x53, 0x62, 0x3c].includes(bytes[i] as number))
      bytes[i] = 0x11
  return bytes
}

describe('carving', () => {
  it('gives whole files back byte for byte, wherever they lie', async () => {
    const files = await wholeFiles()
    const parts: Buffer[] = []
    const expected: { mime: string; bytes: Buffer }[] = []
    // Twice over, at odd places, also with nothing between two of them.
    for (let round = 0; round < 2; round++)
      for (const [i, [name, bytes]] of Object.entries(files).entries()) {
        if (round === 0) parts.push(calm(i + 1, 1 + ((i * 977) % 3000)))
        parts.push(bytes)
        expected.push({ mime: name.split(' ')[0] as string, bytes })
      }
    parts.push(calm(99, 4000))
    const mixed = Buffer.concat(parts)
    const { list, report } = warnings()
    const found = await all(carve(new MemorySource(mixed), report))
    expect(found.filter((one) => one.wholeness === 'whole').map(({ mime }) => mime)).toEqual(
      expected.map(({ mime }) => mime),
    )
    for (const [i, { start, end }] of found.filter((one) => one.wholeness === 'whole').entries())
      expect(mixed.subarray(start, end).equals(expected[i]?.bytes as Buffer), expected[i]?.mime).toBe(true)
    expect(list).toEqual([])
  })

  it('calls nothing whole whose end is missing, or which only begins like a file', async () => {
    for (const [name, bytes] of Object.entries(await wholeFiles()))
      for (const share of [0.1, 0.5, 0.9]) {
        // What names its own size is known as cut where the bytes end; the others wherever they end.
        const behind = /jpeg|png|gif|pdf|zip|plist/.test(name) ? calm(4, 3000) : Buffer.alloc(0)
        const cut = Buffer.concat([calm(3, 100), bytes.subarray(0, Math.floor(bytes.length * share)), behind])
        const found = await all(carve(new MemorySource(cut), () => {}))
        const own = found.filter((one) => one.wholeness === 'whole' && one.start === 100)
        // Sounds without a length end wherever their frames end.
        if (name !== 'audio/amr') expect(own, `${name} ${share}`).toEqual([])
      }
    const heads = Buffer.concat(
      Object.values(await wholeFiles()).flatMap((bytes) => [bytes.subarray(0, 24), calm(7, 500)]),
    )
    const found = await all(carve(new MemorySource(heads), () => {}))
    expect(found.filter((one) => one.wholeness === 'whole')).toEqual([])
  })

  it('finds what lies before and behind a bad sector, and tells of it', async () => {
    const png = await picture(3).png().toBuffer()
    const bytes = Buffer.concat([Buffer.alloc(8192), png, Buffer.alloc(3 << 20), png, Buffer.alloc(100)])
    const warned = warnings()
    const bad = withBadSector(bytes, 16_384 + png.length, 16_384 + png.length + 512)
    const found = await all(carve(bad, warned.report))
    expect(found.map(({ start }) => start)).toEqual([8192, 8192 + png.length + (3 << 20)])
    expect(warned.list.map(({ code }) => code)).toEqual(['file-unreadable'])
  })

  it('finds nothing whole in noise', async () => {
    const found = await all(carve(new MemorySource(noise(12345, 8_000_000)), () => {}))
    expect(found.filter((one) => one.wholeness === 'whole')).toEqual([])
  })

  it('finds what lies behind archives that were cut, however many entries they had', async () => {
    const folder = scratchFolder()
    const program = `import zipfile, sys
with zipfile.ZipFile(sys.argv[1], 'w') as z:
    for i in range(140): z.writestr('page %d.txt' % i, bytes((i * k * 97 + k) % 251 for k in range(900)))
class Stream:
    def __init__(self, file): self.file = file
    def write(self, piece): return self.file.write(piece)
    def flush(self): pass
with open(sys.argv[2], 'wb') as f, zipfile.ZipFile(Stream(f), 'w', zipfile.ZIP_DEFLATED) as z:
    for i in range(140): z.writestr('page %d.txt' % i, 'words of %d ' % i * 50)`
    const [known, streamed] = [join(folder, 'known.zip'), join(folder, 'streamed.zip')]
    tool('/usr/bin/python3', '-c', program, known, streamed)
    const png = await picture(6).png().toBuffer()
    for (const archive of [readFileSync(known), readFileSync(streamed)]) {
      const half = archive.subarray(0, archive.length / 2)
      const mixed = Buffer.concat([half, calm(1, 30_000_000), png, half, archive, png])
      const { list, report } = warnings()
      const found = (await all(carve(new MemorySource(mixed), report))).filter(({ wholeness }) => wholeness === 'whole')
      expect(found.map(({ mime, start, end }) => [mime, end - start])).toEqual([
        ['image/png', png.length],
        ['application/zip', archive.length],
        ['image/png', png.length],
      ])
      expect(list).toEqual([])
    }
  })

  it('does not call whole what another file was written into, and finds that one', async () => {
    const png = await picture(7).png().toBuffer()
    const database = databaseOf(
      'CREATE TABLE t (a); WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 90) INSERT INTO t SELECT randomblob(400) FROM c;',
    )
    const list = Buffer.from(`<?xml version="1.0"?>\n<plist version="1.0"><string>${'moon '.repeat(4000)}`)
    for (const [bytes, at] of [
      [wav(), 300],
      [caf(), 200],
      [database, 12_288],
      [list, 500],
    ] as const) {
      const long = Buffer.concat([bytes, calm(2, 40_000), Buffer.from('</plist>')])
      if (bytes.subarray(0, 4).toString() === 'RIFF') {
        long.writeUInt32LE(20_036, 4)
        long.writeUInt32LE(20_000, 40)
      } else if (bytes.subarray(0, 4).toString() === 'caff') long.writeBigUInt64BE(20_000n, 56)
      png.copy(long, at)
      const found = await all(carve(new MemorySource(long), () => {}))
      expect(found.filter(({ wholeness }) => wholeness === 'whole').map(({ mime, start }) => [mime, start])).toEqual([
        ['image/png', at],
      ])
    }
  })

  it('ends in bounded time on bytes of nothing but beginnings', async () => {
    for (const mark of [
      '\xff\xd8\xff\xe0\0\x10',
      '%PDF-1.4 1 0 obj',
      'PK\x03\x04aaaaaaaaaaaaaaaaaaaaaa\x01\0\0\0',
      'bplist00',
      '\0\0\0\x18ftypisom',
      'GIF89aaaaaaaa',
    ]) {
      const bytes = Buffer.alloc(400_000, Buffer.from(mark, 'latin1'))
      const started = performance.now()
      for await (const one of carve(new MemorySource(bytes), () => {})) expect(one.wholeness).not.toBe('whole')
      expect(performance.now() - started).toBeLessThan(20_000)
    }
  })
})
