import { fromCocoa } from '../../io/time.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { isStore } from '../places.js'
import { type Mapped, rowCategory, type StoreRows } from '../rows.js'
import type { Category } from '../types.js'
import { bookmarksDefinition, openTabsDefinition, webHistoryDefinition } from './definition.js'
import { bookmarkFields, openTabFields, webHistoryFields } from './fields.js'
import { HISTORY_LISTS, historyInLists } from './history-list.js'

const bothHomes = (path: string) => [
  { domain: 'HomeDomain', path },
  { domain: 'AppDomain-com.apple.mobilesafari', path },
]

const inDatabase = rowCategory({
  ...webHistoryDefinition,
  fields: webHistoryFields,
  stores: bothHomes('Library/Safari/History.db'),
  tables: ['history_items'],
  map: visitedPage,
  identity: ({ fields, origin }) => `url:${fields.url ?? origin.offset}`,
})

/** Pages that were visited: a line a page, with all of its visits. Up to version 7 they stand in a list. */
export const webHistory: Category = {
  ...inDatabase,
  stores: [...inDatabase.stores, ...HISTORY_LISTS],
  holds: (entry) => inDatabase.holds(entry) || isStore(HISTORY_LISTS, entry),
  async *read(context) {
    yield* inDatabase.read(context)
    if (context.pass === 'live') yield* historyInLists(context)
  },
}

function visitedPage(row: Row, rows: StoreRows): Mapped {
  const id = numberValue(row.rowid)
  const visits = (id === null ? [] : rows.having('history_visits', 'history_item', id)).flatMap((visit) => {
    const at = fromCocoa(visit.values.visit_time)
    return at ? [{ at, title: textValue(visit.values.title) }] : []
  })
  visits.sort((a, b) => a.at.getTime() - b.at.getTime())
  const last = visits.at(-1)
  const url = textValue(row.values.url)
  const pageTitle = visits.findLast((visit) => visit.title)?.title ?? null
  return {
    when: last?.at ?? null,
    title: pageTitle ?? url ?? 'unknown page',
    text: url,
    fields: {
      url,
      pageTitle,
      visitedAt: last?.at.toISOString() ?? null,
      visits: visits.length || (numberValue(row.values.visit_count) ?? null),
      visitTimes: visits.map((visit) => visit.at.toISOString()),
    },
    whole: url !== null,
  }
}

const FOLDER = 1
const READING_LIST = 3

/** Bookmarks with the path of their folder; the reading list is one of the folders. */
export const bookmarks = rowCategory({
  ...bookmarksDefinition,
  fields: bookmarkFields,
  stores: [{ domain: 'HomeDomain', path: 'Library/Safari/Bookmarks.db' }],
  tables: ['bookmarks'],
  map: bookmark,
  identity: ({ fields }) =>
    typeof fields.uuid === 'string' ? `uuid:${fields.uuid}` : `bookmark:${fields.url}:${fields.folder}`,
})

function bookmark(row: Row, rows: StoreRows): Mapped | undefined {
  const { values } = row
  const url = textValue(values.url)
  if (numberValue(values.type) === FOLDER || (url === null && row.standing === 'live')) return undefined
  const title = textValue(values.title)
  const modified = fromCocoa(values.last_modified)
  return {
    when: modified,
    title: title || url || 'Without a name',
    text: url,
    fields: {
      url,
      pageTitle: title,
      folder: folderPath(row, rows),
      uuid: textValue(values.external_uuid),
      modifiedAt: modified?.toISOString() ?? null,
    },
    gone: numberValue(values.deleted) === 1,
    whole: url !== null && title !== null,
  }
}

const DEEPEST = 32

/** Names of the folders from the top, with slashes between; null where the folder is lost. */
function folderPath(row: Row, rows: StoreRows): string | null {
  const names: string[] = []
  let folder = rows.byId('bookmarks', numberValue(row.values.parent))
  for (let depth = 0; folder && depth < DEEPEST; depth++) {
    const readingList = numberValue(folder.values.special_id) === READING_LIST
    const name = readingList ? 'Reading list' : textValue(folder.values.title)
    // The root has no name of its own to show.
    if (name && numberValue(folder.values.parent) !== null) names.unshift(name)
    folder = rows.byId('bookmarks', numberValue(folder.values.parent))
  }
  return names.length > 0 ? names.join('/') : null
}

/** Tabs that were open, private ones among them. */
export const openTabs = rowCategory({
  ...openTabsDefinition,
  fields: openTabFields,
  stores: [...bothHomes('Library/Safari/SafariTabs.db'), ...bothHomes('Library/Safari/BrowserState.db')],
  tables: ['tabs', 'bookmarks'],
  map: ({ values, table, standing }) => {
    // From version 15 on tabs and their groups stand in a table shaped as that of bookmarks.
    if (table === 'bookmarks' && (numberValue(values.type) === FOLDER || (!values.url && standing === 'live'))) return
    const url = textValue(values.url)
    const viewed = fromCocoa(values.last_viewed_time) ?? fromCocoa(values.last_modified)
    const pageTitle = textValue(values.title)
    return {
      when: viewed,
      title: pageTitle || url || 'Without a name',
      text: url,
      fields: {
        url,
        pageTitle,
        viewedAt: viewed?.toISOString() ?? null,
        private: numberValue(values.private_browsing) === 1,
        uuid: textValue(values.uuid) ?? textValue(values.external_uuid),
      },
      gone: numberValue(values.deleted) === 1,
      whole: url !== null,
    }
  },
  identity: ({ fields }) => (typeof fields.uuid === 'string' ? `uuid:${fields.uuid}` : `tab:${fields.url}`),
})
