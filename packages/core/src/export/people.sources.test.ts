import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import ICAL from 'ical.js'
import { parse as parseVcards } from 'vcard4'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import { readStep } from '../categories/read.js'
import type { CategoryId } from '../categories/registry.js'
import type { Sighting } from '../categories/types.js'
import { fromTree } from './from-tree.js'
import { writePackage } from './package.js'

async function handedOver(
  category: CategoryId,
  ...formats: string[]
): Promise<{ folder: string; sightings: Sighting[] }> {
  const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
  const sightings = await all(readStep(tree, { category, pass: 'live' }, () => {}))
  const folder = join(scratchFolder(), 'package')
  async function* items() {
    for (const sighting of sightings) yield { sighting, standing: 'kept' as const, ...fromTree(tree) }
  }
  const subject = { jobNumber: null, owner: null, device: null, sought: null }
  await writePackage(items(), {
    to: folder,
    subject,
    ...(formats.length > 0 ? { formats: { [category]: formats } } : {}),
  })
  return { folder: join(folder, 'data', category), sightings }
}

describe('contacts', () => {
  it('come back from their vCard file by a general parser, value by value', async () => {
    const { folder, sightings } = await handedOver('contacts')
    const text = readFileSync(join(folder, 'contacts.vcf'), 'utf8')
    const parsed = parseVcards(text)
    const cards = Array.isArray(parsed) ? parsed : [parsed]
    expect(cards.length).toBe(sightings.length)
    for (const [i, card] of cards.entries()) {
      const fields = sightings[i]?.fields ?? {}
      const value = (name: string) => card.getProperty(name).map((property: { value: string }) => property.value)
      expect(value('FN')).toEqual([sightings[i]?.title])
      expect(value('TEL')).toEqual((fields.phones as { value: string }[]).map((one) => one.value))
      expect(value('EMAIL')).toEqual((fields.emails as { value: string }[]).map((one) => one.value))
      expect(value('UID')).toEqual([`urn:uuid:${String(fields.uuid).toLowerCase()}`])
      expect(value('REV')).toEqual([String(fields.modifiedAt).replace(/[-:]|\.000/g, '')])
      if (fields.birthday) expect(value('BDAY')).toEqual([String(fields.birthday).replaceAll('-', '')])
    }
    expect(text.match(/^VERSION:4\.0\r$/gm)?.length).toBe(sightings.length)
    // RFC 6350, section 3.2: no line is longer than 75 octets.
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75)
  })
})

/** What Debian's vobject, a general library, reads of a file of cards or of a calendar: a JSON object an item. */
function readByVobject(file: string, kind: 'vcard' | 'vevent' | 'vtodo'): Record<string, string>[] {
  const script = `
import vobject, json, sys, base64
text = open(sys.argv[1], encoding='utf-8', newline='').read()
out = []
for top in vobject.readComponents(text):
    for one in ([top] if sys.argv[2] == 'vcard' else top.contents.get(sys.argv[2], [])):
        out.append({name: (base64.b64encode(v[0].value).decode() if isinstance(v[0].value, bytes) else str(v[0].value)) for name, v in one.contents.items() if hasattr(v[0], 'value')})
print(json.dumps(out))`
  return JSON.parse(tool('/usr/bin/python3', '-c', script, file, kind))
}

describe('cards of version 3', () => {
  it('come back from a general library with names, ways to reach, and pictures', async () => {
    const { folder, sightings } = await handedOver('contacts', 'vcard3')
    const cards = readByVobject(join(folder, 'contacts.v3.vcf'), 'vcard')
    expect(cards.map((card) => card.fn)).toEqual(sightings.map((one) => one.title))
    for (const [i, card] of cards.entries()) {
      const fields = sightings[i]?.fields ?? {}
      expect(card.version).toBe('3.0')
      expect(card.tel).toBe((fields.phones as { value: string }[])[0]?.value)
      expect(card.photo ?? null).toBe((fields.picture as { base64: string } | null)?.base64 ?? null)
      if (fields.note) expect(card.note).toBe(fields.note)
    }
    expect(cards.filter((card) => card.photo).length).toBeGreaterThan(5)
  })
})

describe('pictures of people', () => {
  it('lie in their cards, byte for byte', async () => {
    const { folder, sightings } = await handedOver('contacts')
    const text = readFileSync(join(folder, 'contacts.vcf'), 'utf8')
    expect([parseVcards(text)].flat().length).toBe(sightings.length)
    // RFC 6350, section 3.2: a line goes on where the next one begins with a space.
    const cards = text.replaceAll('\r\n ', '').split('END:VCARD').slice(0, -1)
    const pictures = cards.map((card) => /^PHOTO:data:image\/jpeg;base64,(\S+)\r$/m.exec(card)?.[1] ?? null)
    expect(pictures).toEqual(
      sightings.map(({ fields }) => (fields.picture as { base64: string } | null)?.base64 ?? null),
    )
    const [first] = pictures.filter(Boolean)
    expect(Buffer.from(first ?? '', 'base64').subarray(0, 3)).toEqual(Buffer.from([0xff, 0xd8, 0xff]))
  })
})

describe.each(['events', 'reminders'] as const)('%s', (category) => {
  it('come back from another general library', async () => {
    const { folder, sightings } = await handedOver(category)
    const items = readByVobject(join(folder, `${category}.ics`), category === 'events' ? 'vevent' : 'vtodo')
    expect(items.map((item) => item.summary)).toEqual(sightings.map((one) => one.title))
    expect(items.map((item) => item.uid)).toEqual(sightings.map((one) => one.fields.uuid))
    for (const [i, item] of items.entries()) {
      const at = sightings[i]?.fields[category === 'events' ? 'startsAt' : 'dueAt']
      const read = item[category === 'events' ? 'dtstart' : 'due']
      // Python writes a moment as "2026-05-01 20:00:00+02:00", by its zone, and a day as it is.
      const moment = read && read.length > 10 ? new Date(read.replace(' ', 'T')).toISOString() : read
      if (typeof at === 'string') expect(moment).toBe(at)
    }
    // Those that were made in a zone are in it.
    const zones = new Set(sightings.map(({ fields }) => fields.timeZone).filter((zone) => zone && zone !== 'UTC'))
    const text = readFileSync(join(folder, `${category}.ics`), 'utf8')
    if (category === 'events') expect(zones.size).toBeGreaterThan(0)
    if (category === 'events')
      for (const zone of zones) {
        expect(text.match(new RegExp(`^TZID:${zone}\\r$`, 'gm'))?.length).toBe(1)
        expect(text).toMatch(new RegExp(`^DTSTART;TZID=${zone}:\\d{8}T\\d{6}\\r$`, 'm'))
      }
  })
})

describe.each(['events', 'reminders'] as const)('%s', (category) => {
  it('are an iCalendar file that a general parser reads', async () => {
    const { folder, sightings } = await handedOver(category)
    const calendar = new ICAL.Component(ICAL.parse(readFileSync(join(folder, `${category}.ics`), 'utf8')))
    const items = calendar.getAllSubcomponents(category === 'events' ? 'vevent' : 'vtodo')
    expect(items.map((item) => item.getFirstPropertyValue('summary'))).toEqual(sightings.map((one) => one.title))
    expect(items.map((item) => item.getFirstPropertyValue('uid'))).toEqual(sightings.map((one) => one.fields.uuid))
    for (const [i, item] of items.entries()) {
      const fields = sightings[i]?.fields ?? {}
      const at = item.getFirstPropertyValue(category === 'events' ? 'dtstart' : 'due') as ICAL.Time | null
      const wanted = category === 'events' ? fields.startsAt : fields.dueAt
      if (wanted) expect(at?.isDate ? at.toString() : at?.toJSDate().toISOString()).toBe(wanted)
      else expect(at).toBeNull()
      const rule = item.getFirstPropertyValue('rrule') as ICAL.Recur | null
      expect(rule?.freq ?? null).toBe(
        (fields.repeats as { frequency: string }[] | undefined)?.[0]?.frequency.toUpperCase() ?? null,
      )
    }
  })
})

describe('other papers', () => {
  it('are pages and files whose text cannot become markup', async () => {
    const notes = await handedOver('notes')
    const one = notes.sightings.find((note) => note.text)
    const folder = join(notes.folder, String(one?.fields.folder))
    expect(readFileSync(join(folder, `${one?.title.replace(/[?]/g, '_')}.txt`), 'utf8')).toContain(one?.text)
    const { folder: bookmarks, sightings } = await handedOver('bookmarks')
    const file = readFileSync(join(bookmarks, 'bookmarks.html'), 'utf8')
    expect(file.match(/<DT><A HREF=/g)?.length).toBe(sightings.length)
    expect(file.match(/<DL><p>/g)?.length).toBe(file.match(/<\/DL><p>/g)?.length)
    const { folder: calls } = await handedOver('calls')
    expect(readFileSync(join(calls, 'calls.html'), 'utf8')).toMatch(/<table>[\s\S]*<\/table>/)
  })
})

describe('places', () => {
  // RFC 7946, sections 3.1.1 and 3.2: a position is longitude, then latitude; features have a geometry and properties.
  it('are points of one feature collection', async () => {
    const { folder, sightings } = await handedOver('places')
    const collection = JSON.parse(readFileSync(join(folder, 'places.geojson'), 'utf8'))
    expect(collection.type).toBe('FeatureCollection')
    expect(collection.features.length).toBe(sightings.length)
    expect(sightings.length).toBeGreaterThan(1)
    for (const [i, { type, geometry, properties }] of collection.features.entries()) {
      expect([type, geometry.type]).toEqual(['Feature', 'Point'])
      expect(geometry.coordinates).toEqual([sightings[i]?.fields.longitude, sightings[i]?.fields.latitude])
      expect(Math.abs(geometry.coordinates[1])).toBeLessThanOrEqual(90)
      expect(properties.pictures).toBeGreaterThan(0)
    }
  })
})
