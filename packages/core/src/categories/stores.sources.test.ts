import { NOTE_TABLE } from '@lumbrin/standins/demo/stores/note-table'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, warnings } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import { readStep } from './read.js'
import type { CategoryId } from './registry.js'
import type { Pass, Sighting } from './types.js'

const plain = demoBackup(inject('demoFolder'))
const old = demoBackup(inject('demoFolder'), 'legacy')

async function read(category: CategoryId, pass: Pass, folder = plain.folder): Promise<Sighting[]> {
  const warned = warnings()
  const found = await all(readStep(await openBackup(folder, warned.report), { category, pass }, warned.report))
  expect(warned.list).toEqual([])
  return found
}

/**
 * The field by which the builder names an item, and the least share of deleted ones that came back by it. Where pages
 * were put in order again while rows were deleted, SQLite itself wrote over most of them.
 */
const KEYS: [CategoryId, string, number][] = [
  ['contacts', 'uuid', 0.9],
  ['calls', 'uniqueId', 0.9],
  ['events', 'uuid', 0.9],
  ['notes', 'uuid', 0.2],
  ['reminders', 'uuid', 0.5],
  ['bookmarks', 'uuid', 0.2],
  ['web-history', 'url', 0.5],
  ['open-tabs', 'uuid', 0.5],
  ['voice-memos', 'uuid', 0.5],
  ['voicemail', 'remoteId', 0.5],
  ['chats', 'guid', 0.5],
]

describe.each(KEYS)('%s', (category, key, share) => {
  const written = plain.truth.stores[category] ?? []
  // A chat is named by its conversation; what was written is its text.
  const title = (one: Sighting) => (category === 'chats' ? (one.text ?? '') : one.title)
  const titles = (sightings: Sighting[]) => new Map(sightings.map((one) => [String(one.fields[key]), title(one)]))

  it('shows every live and binned item as it was written, and no other', async () => {
    const found = await read(category, 'live')
    expect(titles(found)).toEqual(
      new Map(written.filter((one) => one.fate !== 'deleted').map((one) => [one.key, one.title])),
    )
    const binned = found.filter((one) => one.condition === 'binned').map((one) => String(one.fields[key]))
    expect(new Set(binned)).toEqual(new Set(written.filter((one) => one.fate === 'binned').map((one) => one.key)))
    for (const one of found) expect(one).toMatchObject({ confidence: 1, missing: [], origin: { place: 'live' } })
  })

  it('gives deleted items back, and never a live one', async () => {
    const found = await read(category, 'residue')
    const lost = new Map(written.filter((one) => one.fate === 'deleted').map((one) => [one.key, one.title]))
    const named = found.filter((one) => one.fields[key] !== null)
    for (const one of named) expect(lost.has(String(one.fields[key])), String(one.fields[key])).toBe(true)
    expect(new Set(named.map((one) => one.fields[key])).size).toBe(named.length)
    expect(named.length / lost.size).toBeGreaterThanOrEqual(share)
    for (const one of found) expect(['rebuilt', 'partial']).toContain(one.condition)
  })
})

describe('the stores of earlier generations', () => {
  it('give their calls', async () => {
    const found = await read('calls', 'live', old.folder)
    const live = (old.truth.stores.calls ?? []).filter((one) => one.fate === 'live')
    expect(new Map(found.map((one) => [one.when, one.title]))).toEqual(new Map(live.map((one) => [one.key, one.title])))
    expect(found[0]?.fields).toMatchObject({ service: 'phone', direction: expect.stringMatching(/^(in|out)$/) })
  })
})

describe('what an item holds', () => {
  it('of a contact: its labelled values, address and birthday', async () => {
    const found = await read('contacts', 'live')
    const card = found.find((one) => one.title === 'Bram Okafor')?.fields
    expect(card).toMatchObject({
      givenName: 'Bram',
      familyName: 'Okafor',
      jobTitle: 'stage carpenter',
      phones: [{ label: 'mobile', value: expect.stringContaining('+1202555') }],
      addresses: [{ label: 'home', city: 'Saint Brannoc', country: 'Freedonia', region: null }],
    })
    expect(found.filter((one) => one.fields.birthday !== null).length).toBeGreaterThan(0)
    for (const { fields } of found) if (fields.birthday) expect(fields.birthday).toMatch(/^(\d{4}|-)-\d\d-\d\d$/)
    expect(found.map((one) => one.title)).toEqual(expect.arrayContaining(['נועה ברק', 'Velvet & Rope Supplies']))
  })

  it('of a note: its text, its ticked lines, its folder; of a locked one that it is locked', async () => {
    const found = await read('notes', 'live')
    const open = found.filter((one) => one.fields.locked === false)
    for (const { fields, text } of open) {
      const lines = fields.paragraphs as { text: string; style: string; done: boolean; rows?: string[][] }[]
      const words = lines.flatMap((line) => line.rows?.map((cells) => cells.join('\t')) ?? [line.text])
      expect(words.join('\n')).toBe(text)
      expect(lines[0]).toMatchObject({ style: 'title', text: fields.title })
      expect(lines[1]).toMatchObject({ style: 'checklist', done: true })
    }
    const locked = found.filter((one) => one.fields.locked === true)
    expect(locked.length).toBe(1)
    expect(locked[0]).toMatchObject({ text: null, fields: { body: null } })
  })

  it('of an event: repetitions, alarms, its place; a whole day is a plain date', async () => {
    const found = await read('events', 'live')
    expect(found.some((one) => JSON.stringify(one.fields.repeats).includes('"frequency":"weekly"'))).toBe(true)
    expect(found.some((one) => JSON.stringify(one.fields.alarms).includes('"secondsBefore":1800'))).toBe(true)
    expect(found.some((one) => one.fields.location === 'The old barn, Saint Brannoc')).toBe(true)
    for (const { fields } of found) expect(String(fields.startsAt).length).toBe(fields.allDay ? 10 : 24)
  })

  it('of a bookmark: the path of its folder', async () => {
    const folders = new Set((await read('bookmarks', 'live')).map((one) => one.fields.folder))
    expect(folders).toEqual(new Set(['Tour', 'Tour/Hotels', 'Reading list']))
  })

  it('of recordings: their files', async () => {
    for (const category of ['voice-memos', 'voicemail'] as const)
      for (const { content } of await read(category, 'live')) expect(content?.bytes).toBeGreaterThan(1000)
  })

  it('of the device: networks, accounts, and apps that are gone', async () => {
    expect((await read('networks', 'live')).map((one) => one.title)).toContain('楽屋')
    expect((await read('accounts', 'live'))[0]?.fields).toMatchObject({ type: 'Mail' })
    expect((await read('installed-apps', 'live')).map((one) => [one.title, one.condition])).toEqual([
      ['example.puppetry.chat', 'live'],
      ['example.ticket.counter', 'rebuilt'],
    ])
  })
})

describe('the table in a note', () => {
  it('is read, and found by its words', async () => {
    const found = await read('notes', 'live')
    const [note] = found.filter(({ text }) => text?.includes('Saint Brannoc\t3 December\t120'))
    expect(note?.fields.paragraphs).toContainEqual({ text: '', style: 'table', done: false, rows: NOTE_TABLE })
  })
})
