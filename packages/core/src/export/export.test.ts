import { mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import type { Sighting } from '../categories/types.js'
import { MemorySource } from '../io/source.js'
import type { HandoverItem } from './format.js'
import { Places, safeName } from './names.js'
import { writePackage } from './package.js'

const SUBJECT = { jobNumber: '2026-0001', owner: 'Odile <b>Varga</b>', device: null, sought: null }

const message = (fields: Record<string, unknown>, text: string | null = 'hello', title = 'Bram'): HandoverItem => ({
  standing: 'kept',
  open: async () => undefined,
  reveal: async () => undefined,
  sighting: {
    category: 'messages',
    condition: 'live',
    when: '2026-05-01T10:00:00.000Z',
    title,
    text,
    content: null,
    missing: [],
    confidence: 1,
    fields: {
      conversation: 'c1',
      direction: 'in',
      sender: '+12025550100',
      attachments: [],
      body: text,
      ...fields,
    } as Sighting['fields'],
    origin: {
      domain: 'HomeDomain',
      path: 'Library/SMS/sms.db',
      table: 'message',
      rowid: 1,
      place: 'live',
      page: 2,
      offset: 10,
    },
  },
})

const photo = (name: string, bytes: Uint8Array | null): HandoverItem => {
  const item = message({}, null, name)
  const content = bytes && {
    name,
    bytes: bytes.length,
    mime: 'image/jpeg',
    sha256: null,
    domain: 'CameraRollDomain',
    path: name,
  }
  return {
    ...item,
    sighting: { ...item.sighting, category: 'photos', content },
    open: async () => (bytes ? new MemorySource(bytes) : undefined),
  }
}

async function* sequence(items: HandoverItem[]) {
  yield* items
}

const write = (items: HandoverItem[], to: string) => writePackage(sequence(items), { to, subject: SUBJECT })

describe('a handover package', () => {
  it('is a bag that sha256sum accepts, and keeps to RFC 8493', async () => {
    const to = join(scratchFolder(), 'package')
    const summary = await write(
      [photo('IMG_1.JPG', Buffer.from('one')), photo('img_1.jpg', Buffer.from('two')), message({})],
      to,
    )
    expect(tool('sh', '-c', `cd '${to}' && sha256sum -c manifest-sha256.txt tagmanifest-sha256.txt`)).not.toContain(
      'FAILED',
    )
    expect(readFileSync(join(to, 'bagit.txt'), 'utf8')).toBe('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n')
    const payload = readdirSync(join(to, 'data'), { recursive: true, withFileTypes: true }).filter((entry) =>
      entry.isFile(),
    )
    const listed = readFileSync(join(to, 'manifest-sha256.txt'), 'utf8').trim().split('\n')
    expect(listed.length).toBe(payload.length)
    const bytes = payload.reduce((sum, entry) => sum + statSync(join(entry.parentPath, entry.name)).size, 0)
    expect(readFileSync(join(to, 'bag-info.txt'), 'utf8')).toContain(`Payload-Oxum: ${bytes}.${payload.length}`)
    expect(summary).toMatchObject({
      items: 3,
      files: payload.length,
      bytes,
      counts: { photos: { kept: 2 }, messages: { kept: 1 } },
    })
  })

  it('keeps the original bytes and their time', async () => {
    const to = join(scratchFolder(), 'package')
    await write([photo('IMG_1.JPG', Buffer.from('pixels'))], to)
    const file = join(to, 'data/photos/2026/05/IMG_1.JPG')
    expect(readFileSync(file, 'utf8')).toBe('pixels')
    expect(statSync(file).mtime.toISOString()).toBe('2026-05-01T10:00:00.000Z')
  })

  it('says what could not be written', async () => {
    const to = join(scratchFolder(), 'package')
    const summary = await write([photo('gone.jpg', null)], to)
    expect(summary.problems).toHaveLength(1)
    expect(readFileSync(join(to, 'data/report.html'), 'utf8')).toContain('gone.jpg')
  })

  it.each([
    [
      'a folder that is not empty',
      (to: string) => {
        mkdirSync(to)
        writeFileSync(join(to, 'mine.txt'), 'keep')
      },
    ],
    ['a place that cannot be written', (to: string) => writeFileSync(to, 'a file')],
  ])('refuses %s and leaves it as it was', async (_, prepare) => {
    const scratch = scratchFolder()
    const to = join(scratch, 'package')
    prepare(to)
    await expect(write([message({})], to)).rejects.toMatchObject({ name: 'DestinationError' })
    expect(readdirSync(scratch)).toEqual(['package'])
  })

  it('leaves nothing behind when a source fails in the middle', async () => {
    const scratch = scratchFolder()
    const broken = {
      ...photo('b.jpg', Buffer.from('b')),
      open: async () => {
        throw new Error('cable pulled')
      },
    }
    await expect(write([photo('a.jpg', Buffer.from('a')), broken], join(scratch, 'package'))).rejects.toThrow(
      'cable pulled',
    )
    expect(readdirSync(scratch)).toEqual([])
  })

  it('makes hostile text harmless in pages and tables', async () => {
    const to = join(scratchFolder(), 'package')
    const evil = '<script>alert(1)</script><img src=x onerror=alert(1)>'
    await write(
      [
        message({ conversation: 'c1' }, `${evil}\n=HYPERLINK("http://x")`, '../../<b>evil'),
        message({ conversation: 'c2', sender: '=cmd|x' }, '=1+1', 'CON'),
      ],
      to,
    )
    const files = readdirSync(join(to, 'data'), { recursive: true, encoding: 'utf8' })
    for (const name of files.filter((file) => file.endsWith('.html'))) {
      const html = readFileSync(join(to, 'data', name), 'utf8')
      expect(html).not.toContain('<script>')
      expect(html).not.toContain('<img src=x')
      expect(html).not.toContain('<b>Varga')
    }
    expect(files.flatMap((name) => name.split('/'))).not.toContain('..')
    const csv = readFileSync(join(to, 'data/messages/messages.csv'), 'utf8')
    expect(csv).toContain("'=1+1")
    expect(csv).not.toMatch(/(^|,)=1/m)
  })

  it('writes one page a conversation and a line an item', async () => {
    const to = join(scratchFolder(), 'package')
    await write(
      [
        message({ conversation: 'c1' }, 'one', 'Same'),
        message({ conversation: 'c1' }, 'two', 'Same'),
        message({ conversation: 'c2' }, 'three', 'Same'),
        message({ conversation: null }, 'four'),
      ],
      to,
    )
    expect(readdirSync(join(to, 'data/messages')).sort()).toEqual([
      'Conversation unknown.html',
      'Same (2).html',
      'Same.html',
      'messages.csv',
    ])
    const lines = readFileSync(join(to, 'data/index.jsonl'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line))
    expect(lines.map((line) => line.text)).toEqual(['one', 'two', 'three', 'four'])
  })
})

describe('file names', () => {
  it.each([
    ['../../etc/passwd', '_.._etc_passwd'],
    ['a\0b\nc', 'abc'],
    ['CON.txt', '_CON.txt'],
    ['COM1 .txt', '_COM1 .txt'],
    ['lpt² ', '_lpt²'],
    ['conin$.jpg', '_conin$.jpg'],
    ['console.txt', 'console.txt'],
    ['100% sure%0A.jpg', '100_ sure_0A.jpg'],
    ['trailing. . ', 'trailing'],
    ['\u202egpj.exe', 'gpj.exe'],
    ['', 'unnamed'],
    ['…', '…'],
  ])('%j becomes %j', (text, expected) => {
    expect(safeName(text)).toBe(expected)
  })

  it('are always safe, short and not empty', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
        const name = safeName(text)
        expect(Buffer.byteLength(name)).toBeLessThanOrEqual(151)
        expect(name).not.toMatch(/[<>:"/\\|?*%\p{Cc}]|^\s*$|^\.|[. ]$/u)
      }),
    )
  })

  it('never meet, also where case does not count', () => {
    const places = new Places()
    const taken = ['a.jpg', 'A.JPG', 'a.jpg', 'a (2).jpg'].map((name) => places.take('x', name))
    expect(new Set(taken.map((place) => place.toLowerCase())).size).toBe(4)
  })
})
