import { describe, expect, it } from 'vitest'
import { all, databaseOf, madeTree, warnings } from '../../../../tests/setup/fixtures.js'
import { readStep } from './read.js'
import type { CategoryId } from './registry.js'
import type { Sighting } from './types.js'

// Layouts from memory, as docs/categories.md says; each is one that today's devices have left behind.
const REMINDERS = 'AppDomainGroup-group.com.apple.reminders'
const NEW_REMINDERS = (title: string) =>
  databaseOf(`CREATE TABLE ZREMCDREMINDER (Z_PK INTEGER PRIMARY KEY, ZTITLE VARCHAR, ZLIST INTEGER, ZCREATIONDATE TIMESTAMP);
    CREATE TABLE ZREMCDBASELIST (Z_PK INTEGER PRIMARY KEY, ZNAME VARCHAR);
    INSERT INTO ZREMCDBASELIST VALUES (1, 'Van'); INSERT INTO ZREMCDREMINDER VALUES (1, '${title}', 1, 604672496)`)

async function read(
  category: CategoryId,
  files: Parameters<typeof madeTree>[0],
  info: Parameters<typeof madeTree>[1] = {},
): Promise<{ found: Sighting[]; codes: string[] }> {
  const warned = warnings()
  const found = await all(readStep(madeTree(files, info), { category, pass: 'live' }, warned.report))
  return { found, codes: warned.list.map(({ code }) => code) }
}

describe('stores of other generations', () => {
  it('reminders: one store an account, all of them read', async () => {
    const { found } = await read('reminders', [
      [REMINDERS, 'Container_v1/Stores/Data-local.sqlite', NEW_REMINDERS('Oil the wheels')],
      [REMINDERS, 'Container_v1/Stores/Data-5F0E.sqlite', NEW_REMINDERS('Order felt')],
    ])
    expect(found.map(({ title, fields }) => [title, fields.list])).toEqual([
      ['Oil the wheels', 'Van'],
      ['Order felt', 'Van'],
    ])
  })

  it('reminders of 13 to 16: one table for all kinds of thing', async () => {
    const store =
      databaseOf(`CREATE TABLE ZREMCDOBJECT (Z_PK INTEGER PRIMARY KEY, ZTITLE1 VARCHAR, ZNAME1 VARCHAR, ZLIST INTEGER, ZMARKEDFORDELETION INTEGER);
      INSERT INTO ZREMCDOBJECT VALUES (1, NULL, 'Workshop', NULL, 0), (2, 'Mend the fox', NULL, 1, 0), (3, 'Gone', NULL, 1, 1)`)
    const { found } = await read('reminders', [[REMINDERS, 'Container_v1/Stores/Data-local.sqlite', store]])
    expect(found.map(({ title, fields, condition }) => [title, fields.list, condition])).toEqual([
      ['Mend the fox', 'Workshop', 'live'],
      ['Gone', 'Workshop', 'rebuilt'],
    ])
  })

  it('reminders to 12: in the calendar', async () => {
    const store =
      databaseOf(`CREATE TABLE CalendarItem (ROWID INTEGER PRIMARY KEY, summary TEXT, entity_type INTEGER, due_date REAL, UUID TEXT);
      INSERT INTO CalendarItem VALUES (1, 'Rehearsal', 2, NULL, 'a'), (2, 'Pay the carpenter', 3, 604672496, 'b')`)
    const { found } = await read('reminders', [['HomeDomain', 'Library/Calendar/Calendar.sqlitedb', store]])
    expect(found.map(({ title, when }) => [title, when])).toEqual([['Pay the carpenter', '2020-02-29T12:34:56.000Z']])
  })

  it('open tabs from 15 on: a table shaped as that of bookmarks', async () => {
    const store =
      databaseOf(`CREATE TABLE bookmarks (id INTEGER PRIMARY KEY, type INTEGER, title TEXT, url TEXT, external_uuid TEXT, deleted INTEGER DEFAULT 0);
      INSERT INTO bookmarks (type, title, url, external_uuid) VALUES (1, 'Group', NULL, 'g'), (0, 'Lamps', 'https://lamps.example/', 't')`)
    const { found } = await read('open-tabs', [['HomeDomain', 'Library/Safari/SafariTabs.db', store]])
    expect(found.map(({ title, fields }) => [title, fields.uuid])).toEqual([['Lamps', 't']])
  })

  it('voice memos to 11', async () => {
    const store =
      databaseOf(`CREATE TABLE ZRECORDING (Z_PK INTEGER PRIMARY KEY, ZDATE TIMESTAMP, ZDURATION FLOAT, ZCUSTOMLABEL VARCHAR, ZPATH VARCHAR);
      INSERT INTO ZRECORDING VALUES (1, 604672496, 12.5, 'Fox song', '/var/mobile/Media/Recordings/20200229 123456.m4a')`)
    const { found } = await read('voice-memos', [
      ['MediaDomain', 'Media/Recordings/Recordings.db', store],
      ['MediaDomain', 'Media/Recordings/20200229 123456.m4a', Buffer.from('sound')],
    ])
    expect(found[0]).toMatchObject({ title: 'Fox song', content: { bytes: 5 }, fields: { durationSeconds: 12.5 } })
  })

  it('notes to 8: simple HTML', async () => {
    const store =
      databaseOf(`CREATE TABLE ZNOTE (Z_PK INTEGER PRIMARY KEY, ZTITLE VARCHAR, ZGUID VARCHAR, ZMODIFICATIONDATE TIMESTAMP, ZDELETEDFLAG INTEGER);
      CREATE TABLE ZNOTEBODY (Z_PK INTEGER PRIMARY KEY, ZOWNER INTEGER, ZCONTENT VARCHAR);
      INSERT INTO ZNOTE VALUES (1, 'Paint', 'n', 604672496, 0); INSERT INTO ZNOTEBODY VALUES (1, 1, '<div>Paint</div><div>&amp; glue &#128512;</div>')`)
    const { found } = await read('notes', [['HomeDomain', 'Library/Notes/notes.sqlite', store]])
    expect(found.map(({ text }) => text)).toEqual(['Paint\n& glue 😀'])
  })

  it('a store that moved to another domain is found by its name', async () => {
    const store = databaseOf(`CREATE TABLE history_items (id INTEGER PRIMARY KEY, url TEXT, visit_count INTEGER);
      CREATE TABLE history_visits (id INTEGER PRIMARY KEY, history_item INTEGER, visit_time REAL, title TEXT);
      INSERT INTO history_items VALUES (1, 'https://lamps.example/', 2); INSERT INTO history_visits VALUES (1, 1, 604672496, 'Lamps')`)
    const { found } = await read('web-history', [['AppDomainGroup-group.moved', 'Library/Web/History.db', store]])
    expect(found.map(({ title }) => title)).toEqual(['Lamps'])
  })
})

describe('what only encrypted backups hold', () => {
  it.each([
    ['calls', { osVersion: '17.0' }, ['only-in-encrypted']],
    ['calls', { osVersion: '12.4' }, []],
    ['calls', { osVersion: '17.0', encrypted: true }, []],
    ['notes', { osVersion: '17.0' }, []],
    ['web-history', { osVersion: null }, []],
  ] as const)('an empty %s of %o is explained by %o', async (category, info, expected) => {
    expect((await read(category, [], info)).codes).toEqual(expected)
  })
})
