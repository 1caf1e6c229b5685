import { fromCocoa } from '../../io/time.js'
import { isDict, type PlistValue, textOf } from '../../plist/read.js'
import { fileOrigin, listIn } from '../open.js'
import { storesOf } from '../places.js'
import type { ReadContext, Sighting } from '../types.js'

/** Where systems up to version 7 keep the pages that were visited (from memory). */
export const HISTORY_LISTS = [{ domain: 'HomeDomain', path: 'Library/Safari/History.plist' }]

// A list beyond that is no owner's history.
const MOST_PAGES = 200_000

/** Pages that were visited, out of property lists: a page has one date, that of its last visit. */
export async function* historyInLists({ tree, report }: ReadContext): AsyncGenerator<Sighting> {
  for (const entry of storesOf(tree, HISTORY_LISTS)) {
    const list = await listIn(tree, entry, report)
    const pages = isDict(list) && Array.isArray(list.WebHistoryDates) ? list.WebHistoryDates : []
    for (const page of pages.slice(0, MOST_PAGES)) {
      const sighting = isDict(page) && visited(page)
      if (sighting) yield { ...sighting, origin: fileOrigin(entry) }
    }
  }
}

/** The address stands under a key without letters, the time as the text of a number. */
function visited(page: { [key: string]: PlistValue }): Omit<Sighting, 'origin'> | undefined {
  const url = textOf(page[''])
  if (!url) return undefined
  const at = fromCocoa(Number(page.lastVisitedDate))
  const pageTitle = textOf(page.displayTitle) ?? textOf(page.title)
  const when = at?.toISOString() ?? null
  const visits = typeof page.visitCount === 'number' ? page.visitCount : null
  return {
    category: 'web-history',
    condition: 'live',
    when,
    title: pageTitle ?? url,
    text: url,
    fields: { url, pageTitle, visitedAt: when, visits, visitTimes: when ? [when] : [] },
    content: null,
    missing: [],
    confidence: 1,
  }
}
