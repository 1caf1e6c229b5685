import type { Random } from '../../random.js'
import type { Made } from './personal.js'
import { cocoa, insert, lose, makeStore, type StoreFile, type WrittenItem } from './store.js'

const SITES = [
  'timber.example',
  'felt-and-thread.example',
  'mountain-roads.example',
  'fair-dates.example',
  '影絵.example',
  'lamps.example',
]

/** Visited pages with their visits. */
export async function historyStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE history_items (id INTEGER PRIMARY KEY AUTOINCREMENT, url TEXT NOT NULL UNIQUE, domain_expansion TEXT NULL, visit_count INTEGER NOT NULL, daily_visit_counts BLOB NOT NULL,
       weekly_visit_counts BLOB NULL, autocomplete_triggers BLOB NULL, should_recompute_derived_visit_counts INTEGER NOT NULL, visit_count_score INTEGER NOT NULL);
     CREATE TABLE history_visits (id INTEGER PRIMARY KEY AUTOINCREMENT, history_item INTEGER NOT NULL REFERENCES history_items(id) ON DELETE CASCADE, visit_time REAL NOT NULL,
       title TEXT NULL, load_successful BOOLEAN NOT NULL DEFAULT 1, http_non_get BOOLEAN NOT NULL DEFAULT 0, synthesized BOOLEAN NOT NULL DEFAULT 0, redirect_source INTEGER NULL UNIQUE,
       redirect_destination INTEGER NULL UNIQUE, origin INTEGER NOT NULL DEFAULT 0, generation INTEGER NOT NULL DEFAULT 0, attributes INTEGER NOT NULL DEFAULT 0, score INTEGER NOT NULL DEFAULT 0)`,
    (database) => {
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const url = `https://${random.pick(SITES)}/pages/${i + 1}?from=${random.int(1, 99)}`
        const visits = random.int(1, 4)
        const id = insert(database, 'history_items', {
          url,
          visit_count: visits,
          daily_visit_counts: Buffer.from([visits, 0, 0, 0]),
          should_recompute_derived_visit_counts: 0,
          visit_count_score: 100,
        })
        for (let v = 0; v < visits; v++)
          insert(database, 'history_visits', {
            history_item: id,
            visit_time: cocoa(takenAt) - (count - i) * 9000 - v * 400 + 0.5,
            title: `Page ${i + 1} about cord and felt`,
          })
        const fate = file.fateOf(i)
        if (fate === 'deleted')
          lost.push(
            ['DELETE FROM history_visits WHERE history_item = ?', id],
            ['DELETE FROM history_items WHERE id = ?', id],
          )
        written.push({ key: url, title: `Page ${i + 1} about cord and felt`, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}

/** Bookmarks in folders within folders, and a reading list. */
export async function bookmarkStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE bookmarks (id INTEGER PRIMARY KEY, special_id INTEGER DEFAULT 0, parent INTEGER, type INTEGER, title TEXT, url TEXT COLLATE NOCASE, num_children INTEGER DEFAULT 0,
       editable INTEGER DEFAULT 1, deletable INTEGER DEFAULT 1, hidden INTEGER DEFAULT 0, order_index INTEGER NOT NULL, external_uuid TEXT UNIQUE, read INTEGER DEFAULT NULL,
       last_modified REAL DEFAULT NULL, deleted INTEGER DEFAULT 0, extra_attributes BLOB, local_attributes BLOB)`,
    (database) => {
      const folder = (title: string, parent: number | null, special_id = 0) =>
        insert(database, 'bookmarks', {
          special_id,
          parent,
          type: 1,
          title,
          order_index: 0,
          external_uuid: random.uuid(),
        })
      const root = folder('Root', null)
      const tour = folder('Tour', root)
      const folders = [tour, folder('Hotels', tour), folder('com.apple.ReadingList', root, 3)]
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const uuid = random.uuid()
        const title = `Stop ${i + 1}: ${random.pick(['bakery', 'town hall', 'workshop', 'market square'])}`
        const id = insert(database, 'bookmarks', {
          parent: folders[i % 3],
          type: 0,
          title,
          url: `https://${random.pick(SITES)}/stop/${i + 1}`,
          order_index: i,
          external_uuid: uuid,
          last_modified: cocoa(takenAt) - i * 86_400,
        })
        const fate = file.fateOf(i)
        if (fate === 'deleted') lost.push(['DELETE FROM bookmarks WHERE id = ?', id])
        written.push({ key: uuid, title, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}

/** Open tabs, some private. */
export async function tabStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    'CREATE TABLE tabs (id INTEGER PRIMARY KEY, uuid TEXT NOT NULL UNIQUE, title TEXT, url TEXT, order_index INTEGER, last_viewed_time REAL, opened_from_link INTEGER, private_browsing INTEGER, browser_window_uuid TEXT)',
    (database) => {
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const uuid = random.uuid()
        const title = `Tab ${i + 1} on lamps`
        const id = insert(database, 'tabs', {
          uuid,
          title,
          url: `https://${random.pick(SITES)}/tab/${i + 1}`,
          order_index: i,
          last_viewed_time: cocoa(takenAt) - i * 3600,
          private_browsing: i % 4 === 1 ? 1 : 0,
          browser_window_uuid: random.uuid(),
        })
        const fate = file.fateOf(i)
        if (fate === 'deleted') lost.push(['DELETE FROM tabs WHERE id = ?', id])
        written.push({ key: uuid, title, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}
