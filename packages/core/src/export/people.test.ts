import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import ICAL from 'ical.js'
import { parse as parseVcards } from 'vcard4'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import { readStep } from '../categories/read.js'
import type { CategoryId, Sighting } from '../categories/types.js'
import { fromTree } from './from-tree.js'
import { writePackage } from './package.js'

async function handedOver(category: CategoryId): Promise<{ folder: string; sightings: Sighting[] }> {
  const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
  const sightings = await all(readStep(tree, { category, pass: 'live' }, () => {}))
  const folder = join(scratchFolder(), 'package')
  async function* items() {
    for (const sighting of sightings) yield { sighting, standing: 'kept' as const, ...fromTree(tree) }
  }
  await writePackage(items(), { to: folder, subject: { jobNumber: null, owner: null, device: null, sought: null } })
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
