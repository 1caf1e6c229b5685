import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { runInNewContext } from 'node:vm'
import { HtmlRenderer, Parser } from 'commonmark'
import { parse as parseCsv } from 'csv-parse/sync'
import ICAL from 'ical.js'
import { parse as parseVcards } from 'vcard4'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { demoBackup, tool } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import type { SourceTree } from '../backup/types.js'
import { readStep } from '../categories/read.js'
import { categoryList } from '../categories/table.js'
import type { Json, Sighting } from '../categories/types.js'
import type { HandoverItem } from './format.js'
import { formatsOffered } from './formats.js'
import { fromTree } from './from-tree.js'
import { writePackage } from './package.js'
import { partPage } from './part-page.js'

/** What an owner's data may hold to harm whoever opens a package. Common practice; no published list. */
const CORPUS = [
  '<script>alert(1)</script>',
  '"><img src=x onerror=alert(1)>',
  "' onmouseover='alert(1)",
  '</title></table></body><svg/onload=alert(1)>',
  '<!-- --><style>*{display:none}</style>',
  'javascript:alert(1)',
  '=HYPERLINK("http://example.invalid","x")',
  '+1+cmd|calc',
  '@SUM(A1:A9)',
  '-2+3',
  '\t=1+1',
  'a\r\nBEGIN:VCARD\r\nEND:VCARD\r\nEND:VCALENDAR\r\n',
  'bell\u0007 escape\u001b[2J null\u0000',
  'photo\u202egpj.exe',
  '\u2066isolated\u2069 \ufeffmark',
  '../../../../etc/passwd',
  '..\\..\\windows\\system32',
  '/absolute',
  'CON',
  'aux.txt',
  'COM1 .txt',
  '100% sure%0A%25.jpg',
  'trailing. ',
  'x'.repeat(5000),
  '\ud800 lone surrogate',
  '[link](javascript:alert(1)) ![x](http://example.invalid/a.png) <b>',
  '# head\n\n- list\n\n```\ncode',
]

/** The same value with hostile words in the place of all text that no format needs to be what it is. */
function poisoned(value: Json, words: string, key = ''): Json {
  if (/At$|^(direction|birthday|style|visitTimes)$/.test(key)) return value
  if (typeof value === 'string') return words
  if (Array.isArray(value)) return value.map((one) => poisoned(one, words, key))
  if (value === null || typeof value !== 'object') return value
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, poisoned(one, words, name)]))
}

function poison(sighting: Sighting, words: string): Sighting {
  const fields = poisoned(sighting.fields, words) as Sighting['fields']
  const { attachments } = sighting.fields
  // Places in the source stay, so that files are found and copied.
  if (Array.isArray(attachments))
    fields.attachments = attachments.map((one) => ({ ...(one as { [key: string]: Json }), name: words }))
  const content = sighting.content && { ...sighting.content, name: words }
  return { ...sighting, title: words, text: sighting.text === null ? null : words, fields, content }
}

describe('hostile text in every format', () => {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-hostile-'))
  let data: string
  let files: string[]
  const paths = (ending: string) => files.filter((path) => path.endsWith(ending)).map((path) => join(data, path))

  beforeAll(async () => {
    const tree: SourceTree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
    const to = join(folder, 'package')
    async function* items(): AsyncGenerator<HandoverItem> {
      for (const { id } of categoryList) {
        if (id === 'credentials') continue
        for await (const sighting of readStep(tree, { category: id, pass: 'live' }, () => {})) {
          for (const words of CORPUS)
            yield {
              sighting: poison(sighting, words),
              standing: 'kept',
              source: { name: words, path: words },
              ...fromTree(tree),
            }
          break
        }
      }
    }
    await writePackage(items(), {
      to,
      subject: { jobNumber: CORPUS[0] as string, owner: CORPUS[1] as string, device: CORPUS[12] as string, sought: '' },
      formats: Object.fromEntries(categoryList.map((category) => [category.id, formatsOffered(category)])),
      duplicates: 'each',
      site: { program: { script: '// pages', style: 'body{margin:0}', fonts: [] } },
    })
    expect(tool('sh', '-c', `cd '${to}' && sha256sum --strict --quiet -c manifest-sha256.txt`)).toBe('')
    data = join(to, 'data')
    files = (readdirSync(data, { recursive: true, withFileTypes: true }) ?? [])
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name).slice(data.length + 1))
  })

  afterAll(() => rmSync(folder, { recursive: true, force: true }))

  it('gives no file a name that a file system or a reader stumbles over', () => {
    expect(files.length).toBeGreaterThan(200)
    for (const path of files)
      for (const part of path.split('/')) {
        // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters must not be there
        expect(part).not.toMatch(/[\u0000-\u001f\u007f<>:"\\|?*\u202a-\u202e\u2066-\u2069\ufeff]/)
        expect(part).not.toMatch(/^(con|aux|nul|prn)(\.|$)/i)
        expect(part).not.toMatch(/^\.|[. ]$/)
        expect(Buffer.byteLength(part)).toBeLessThanOrEqual(255)
      }
    expect(new Set(files.map((path) => path.toLowerCase())).size).toBe(files.length)
  })

  it('stays text in every page', () => {
    const pages = paths('.html')
    expect(pages.length).toBeGreaterThan(60)
    for (const page of pages) {
      const html = readFileSync(page, 'utf8')
      // The tags that the pages are made of have few attributes; anything else would be the corpus's.
      const tags = html.replace(/<style>[^<]*<\/style>/g, '').replace(/"[^"<>]*"/g, '""')
      expect(tags).not.toMatch(/<(script|svg|style|iframe)|<[^>]*\son\w+=/i)
      expect(html).not.toMatch(/(href|src)="?\s*javascript:/i)
    }
  })

  it('hands over data and does nothing else in the scripts of the pages', () => {
    const scripts = paths('.js').filter((path) => !path.endsWith('site.js'))
    expect(scripts.length).toBeGreaterThan(10)
    for (const script of scripts) {
      const handed: unknown[] = []
      const text = readFileSync(script, 'utf8')
      // Without a global of its own there is nothing that it could reach but the function it calls.
      runInNewContext(text, { lumbrinPart: (...given: unknown[]) => handed.push(given) })
      const [[name, value] = []] = handed as [string, unknown][]
      expect(handed.length).toBe(1)
      expect(text).toBe(`lumbrinPart(${JSON.stringify(name)},${JSON.stringify(value)})\n`)
    }
  })

  it('leaves every page one that the validator of the HTML standard has no error in', () => {
    // The Nu Html Checker (validator.github.io), of the package vnu-jar, with Debian's Java.
    const jar = join(process.cwd(), 'node_modules/vnu-jar/build/dist/vnu.jar')
    // Files of bookmarks look as browsers take them, which is no HTML of today.
    const pages = paths('.html').filter((path) => !path.endsWith('bookmarks/bookmarks.html'))
    const [name, ofPart] = partPage({ title: '"><b>\u202e', number: 2, count: 3, entry: 'index.html' })
    writeFileSync(join(folder, name), ofPart)
    tool('java', '-jar', jar, '--errors-only', join(data, '../index.html'), join(folder, name), ...pages)
  })

  it('is no formula in any table, and every line has the columns of its head', () => {
    const tables = paths('.csv')
    expect(tables.length).toBeGreaterThan(20)
    for (const table of tables)
      for (const cells of parseCsv(readFileSync(table)) as string[][])
        for (const cell of cells) if (!/^[-+]?[\d.]+(e-?\d+)?$/.test(cell)) expect(cell).not.toMatch(/^[=+\-@\t\r]/)
  })

  it('adds no card and no event', () => {
    for (const [ending, version] of [
      ['contacts.vcf', '4.0'],
      ['contacts.v3.vcf', '3.0'],
    ] as const) {
      const text = readFileSync(join(data, 'contacts', ending), 'utf8')
      expect(text.match(/^BEGIN:VCARD\r$/gm)?.length).toBe(CORPUS.length)
      expect(text.match(new RegExp(`^VERSION:${version}\\r$`, 'gm'))?.length).toBe(CORPUS.length)
      if (version === '3.0') expect(ICAL.parse(text).length).toBe(CORPUS.length)
      else expect([parseVcards(text)].flat().length).toBe(CORPUS.length)
    }
    for (const [category, component] of [
      ['events', 'vevent'],
      ['reminders', 'vtodo'],
    ] as const) {
      const calendar = new ICAL.Component(ICAL.parse(readFileSync(join(data, category, `${category}.ics`), 'utf8')))
      expect(calendar.getAllSubcomponents(component).length).toBe(CORPUS.length)
    }
  })

  it('adds no mail to a mailbox, and no head to a mail', () => {
    for (const category of ['messages', 'chats']) {
      const boxes = paths('.mbox').filter((path) => path.includes(`/data/${category}/`))
      expect(boxes.length).toBeGreaterThan(0)
      // Python's own module "mailbox".
      const heads: string[][] = JSON.parse(
        tool(
          '/usr/bin/python3',
          '-c',
          'import mailbox, json, sys; print(json.dumps([sorted(k.lower() for k in m.keys()) for p in sys.argv[1:] for m in mailbox.mbox(p)]))',
          ...boxes,
        ),
      )
      expect(heads.length).toBe(CORPUS.length)
      const known =
        /^(from|to|subject|date|message-id|in-reply-to|x-standing|mime-version|content-type|content-transfer-encoding)$/
      for (const names of heads) for (const name of names) expect(name).toMatch(known)
    }
  })

  it('is worked out by no program in the workbook', () => {
    // Debian's openpyxl.
    const types = JSON.parse(
      tool(
        '/usr/bin/python3',
        '-c',
        'import openpyxl, json, sys; print(json.dumps(sorted({c.data_type for r in openpyxl.load_workbook(sys.argv[1]).active.iter_rows() for c in r})))',
        join(data, 'index.xlsx'),
      ),
    )
    expect(types).toEqual(['d', 'n', 's'])
  })

  it('is valid where XML, JSON or Markdown is written', () => {
    const tracks = [...paths('.gpx'), ...paths('.xmp')]
    expect(tracks.length).toBeGreaterThan(CORPUS.length)
    // The parser of libxml2, from Debian's libxml2-utils.
    for (const track of tracks) tool('xmllint', '--noout', track)
    for (const lines of paths('.jsonl'))
      for (const line of readFileSync(lines, 'utf8').split('\n').filter(Boolean)) JSON.parse(line)
    for (const collection of paths('.geojson')) JSON.parse(readFileSync(collection, 'utf8'))
    const notes = paths('.md')
    expect(notes.length).toBe(CORPUS.length)
    for (const note of notes) {
      // The reference implementation of CommonMark.
      const html = new HtmlRenderer().render(new Parser().parse(readFileSync(note, 'utf8')))
      expect(html.replace(/<img src="\.?\.?[^":]*"/g, '')).not.toMatch(
        /<(script|img|svg|style|a href="(?!\.\.|attach))/i,
      )
    }
  })

  it('steers no terminal and turns no line in plain text', () => {
    const texts = paths('.txt').filter((path) => /\/data\/(messages|chats|notes)\/(?!attachments)/.test(path))
    expect(texts.length).toBeGreaterThan(10)
    // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters must not be there
    const steering = /[\u0000-\u0008\u000b-\u001f\u007f\u202a-\u202e\u2066-\u2069]/
    for (const text of texts) expect(readFileSync(text, 'utf8')).not.toMatch(steering)
  })

  it('leaves the printable report a document that a general reader takes', () => {
    // Poppler, from Debian's poppler-utils.
    const text = tool('pdftotext', join(data, 'report.pdf'), '-')
    expect(text).toContain('What was recovered')
    expect(text).toContain('<script>alert(1)</script>')
  })
})
