import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { parse as parseCsv } from 'csv-parse/sync'
import { parse as parseVcards } from 'vcard4'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import { attachmentsOf } from '../categories/attachments.js'
import { readStep } from '../categories/read.js'
import type { CategoryId } from '../categories/registry.js'
import type { Sighting } from '../categories/types.js'
import { fromTree } from './from-tree.js'
import { writePackage } from './package.js'
import type { PackagedItem } from './packaged.js'
import { workbookOf } from './workbook.js'

async function handedOver(category: CategoryId, formats: string[], change = (one: Sighting): Sighting => one) {
  const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
  const sightings = (await all(readStep(tree, { category, pass: 'live' }, () => {}))).map(change)
  sightings.sort((a, b) => String(a.fields.conversation).localeCompare(String(b.fields.conversation)))
  const to = join(scratchFolder(), 'package')
  async function* items() {
    for (const sighting of sightings) yield { sighting, standing: 'kept' as const, ...fromTree(tree) }
  }
  const subject = { jobNumber: null, owner: null, device: null, sought: null, timeZone: 'Europe/Lisbon' }
  await writePackage(items(), { to, subject, formats: { [category]: formats } })
  const index = readFileSync(join(to, 'data/index.jsonl'), 'utf8').trim().split('\n')
  return { data: join(to, 'data'), sightings, index: index.map((line): PackagedItem => JSON.parse(line)) }
}

const python = (script: string, ...words: string[]) => JSON.parse(tool('/usr/bin/python3', '-c', script, ...words))

describe('mailboxes', () => {
  it('hold every message and its attachments as mails that a general library reads', async () => {
    const from = { value: 'From here on\n>From there\nF' }
    const { data, sightings } = await handedOver('messages', ['mailbox'], (one) =>
      one.fields.guid === undefined || !one.text?.startsWith('C') ? one : { ...one, text: from.value },
    )
    // Python's own modules "mailbox" and "email".
    const mails: { from: string; subject: string; date: string; text: string; files: [string, number][] }[] = python(
      `
import mailbox, json, sys, glob, email.policy, email.utils
out = []
for path in glob.glob(sys.argv[1] + '/*.mbox'):
    for raw in mailbox.mbox(path):
        one = email.message_from_bytes(raw.as_bytes(), policy=email.policy.default)
        body = one.get_body(preferencelist=('plain',))
        out.append({'from': one['from'], 'subject': one['subject'], 'date': email.utils.parsedate_to_datetime(one['date']).isoformat(),
            'text': body.get_content() if body else '', 'files': [[a.get_filename(), len(a.get_content() if isinstance(a.get_content(), bytes) else a.get_content().encode())] for a in one.iter_attachments()]})
print(json.dumps(out))`,
      join(data, 'messages'),
    )
    expect(mails.length).toBe(sightings.length)
    const told = (text: string) => text.replace(/\r\n/g, '\n').trim()
    // RFC 4155 leaves quoting open; a ">" is taken away before each line that was quoted.
    const unquoted = (text: string) => told(text).replace(/^>(>*From )/gm, '$1')
    expect(mails.map(({ text }) => unquoted(text)).sort()).toEqual(sightings.map(({ text }) => told(text ?? '')).sort())
    expect(sightings.some(({ text }) => text === from.value)).toBe(true)
    const seconds = (iso: string) => Math.floor(Date.parse(iso) / 1000)
    expect(mails.map(({ date }) => seconds(date)).sort()).toEqual(
      sightings.map(({ when }) => seconds(when ?? '')).sort(),
    )
    const attached = sightings.flatMap(attachmentsOf).filter(({ path }) => path !== null)
    expect(mails.flatMap(({ files }) => files).length).toBe(attached.length)
    expect(attached.length).toBeGreaterThan(3)
    expect(new Set(mails.map(({ subject }) => subject))).toEqual(new Set(sightings.map(({ title }) => title)))
  })
})

describe('the workbook', () => {
  it('has a row for every item, with dates that are dates and texts that no program works out', async () => {
    const { data, index } = await handedOver('calls', ['csv'], (one) => ({ ...one, title: `=1+1 ${one.title}` }))
    // Debian's openpyxl.
    const rows: [string, unknown][][] = python(
      `
import openpyxl, json, sys
sheet = openpyxl.load_workbook(sys.argv[1]).active
print(json.dumps([[[cell.data_type, cell.value.isoformat() if hasattr(cell.value, 'isoformat') else cell.value] for cell in row] for row in sheet.iter_rows()]))`,
      join(data, 'index.xlsx'),
    )
    expect(rows.length).toBe(index.length + 1)
    const csv: string[][] = parseCsv(readFileSync(join(data, 'index.csv')))
    for (const [i, item] of index.entries()) {
      const [kind, when, utc, , title, , , confidence] = rows[i + 1] ?? []
      expect(kind).toEqual(['s', 'Calls'])
      expect(utc).toEqual(['d', `${item.when?.slice(0, 16)}:00`])
      // What the clocks of the zone showed, as the table in CSV has it.
      expect(when?.[1]).toBe(`${csv[i + 1]?.[1]?.slice(0, 16)}:00`)
      expect(title).toEqual(['s', item.title])
      expect(confidence).toEqual(['n', item.confidence])
    }
    expect(rows.flat().some(([type]) => type === 'f')).toBe(false)
  })
})

describe('a workbook that does not hold all items', () => {
  it('says how many more there are, and where', async () => {
    const { index } = await handedOver('calls', ['csv'])
    async function* all() {
      yield* index
    }
    const file = join(scratchFolder(), 'short.xlsx')
    writeFileSync(file, await workbookOf(all(), 'UTC', 3))
    const rows: (string | null)[][] = python(
      'import openpyxl, json, sys; print(json.dumps([[str(c.value) for c in r] for r in openpyxl.load_workbook(sys.argv[1]).active.iter_rows()]))',
      file,
    )
    expect(rows.length).toBe(1 + 3 + 1)
    expect(rows.at(-1)?.[0]).toBe(`… and ${index.length - 3} more items: index.csv has all of them.`)
  })
})

describe('the table', () => {
  it('is read by Python as exactly the items, whatever their texts hold', async () => {
    const words = 'a "b"\r\n=c, d\n\ne'
    const { data, index } = await handedOver('notes', ['note-texts', 'csv'], (one) => ({ ...one, text: words }))
    const rows: Record<string, string>[] = python(
      "import csv, json, sys; print(json.dumps(list(csv.DictReader(open(sys.argv[1], encoding='utf-8', newline='')))))",
      join(data, 'index.csv'),
    )
    expect(rows.map((row) => [row.category, row.title, row.text])).toEqual(
      index.map(({ category, title }) => [category, title, words]),
    )
    const own: Record<string, string>[] = python(
      "import csv, json, sys; print(json.dumps(list(csv.DictReader(open(sys.argv[1], encoding='utf-8', newline='')))))",
      join(data, 'notes/notes.csv'),
    )
    expect(own.length).toBe(index.length)
  })
})

describe('cards one by one', () => {
  it('are a file for each contact', async () => {
    const { data, sightings } = await handedOver('contacts', ['vcard-files'])
    const files = readdirSync(join(data, 'contacts/one by one'))
    expect(files.length).toBe(sightings.length)
    const names = files.map((file) => {
      const card = [parseVcards(readFileSync(join(data, 'contacts/one by one', file), 'utf8'))].flat()
      expect(card.length).toBe(1)
      return card[0]?.getProperty('FN')[0]?.value
    })
    expect(names.sort()).toEqual(sightings.map(({ title }) => title).sort())
  })
})

describe('pictures', () => {
  it('have sidecars from which exiftool reads time, place, albums and favourites', async () => {
    const { data, index } = await handedOver('photos', ['original', 'sidecars'])
    const read: Record<string, unknown>[] = JSON.parse(
      tool(
        'exiftool',
        '-j',
        '-n',
        '-r',
        '-ext',
        'xmp',
        '-DateCreated',
        '-GPSLatitude',
        '-GPSLongitude',
        '-Subject',
        '-Rating',
        '-Title',
        data,
      ),
    )
    const byName = new Map(read.map((one) => [basename(String(one.SourceFile)), one]))
    const whole = index.filter(({ files }) => files.some((file) => file.endsWith('.xmp')))
    expect(whole.length).toBeGreaterThan(15)
    expect(read.length).toBe(whole.length)
    for (const { title, fields, files } of whole) {
      const one = byName.get(basename(files.find((file) => file.endsWith('.xmp')) ?? ''))
      expect(one?.Title).toBe(title)
      expect([one?.Subject ?? []].flat()).toEqual(fields.albums)
      expect(one?.Rating ?? null).toBe(fields.favourite ? 5 : null)
      if (typeof fields.latitude === 'number') expect(one?.GPSLatitude).toBeCloseTo(fields.latitude, 5)
      if (typeof fields.longitude === 'number') expect(one?.GPSLongitude).toBeCloseTo(fields.longitude, 5)
      expect(String(one?.DateCreated)).toMatch(/^\d{4}:\d\d:\d\d /)
    }
  })

  it('in HEIC keep what the camera wrote when they become JPEG, and are upright', async () => {
    const { data } = await handedOver('photos', ['original', 'jpeg'])
    const tags = (folder: string, ending: string): Record<string, unknown>[] =>
      JSON.parse(
        tool(
          'exiftool',
          '-j',
          '-n',
          '-r',
          '-ext',
          ending,
          '-Make',
          '-Model',
          '-DateTimeOriginal',
          '-GPSLatitude',
          '-Orientation',
          folder,
        ),
      )
    const heic = tags(data, 'heic')
    const jpeg = tags(join(data, 'photos/as JPEG'), 'jpg')
    expect(jpeg.length).toBe(heic.length)
    expect(heic.length).toBeGreaterThan(0)
    const told = ({ Make, Model, DateTimeOriginal, GPSLatitude }: Record<string, unknown>) =>
      JSON.stringify([Make, Model, DateTimeOriginal, GPSLatitude])
    expect(jpeg.map(told).sort()).toEqual(heic.map(told).sort())
    expect(heic.some(({ DateTimeOriginal }) => DateTimeOriginal)).toBe(true)
    for (const { Orientation } of jpeg) expect([undefined, 1]).toContain(Orientation)
  })
})
