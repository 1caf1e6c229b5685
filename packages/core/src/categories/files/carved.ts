import { STRAY_DOMAIN } from '../../backup/open.js'
import type { SourceEntry, SourceTree } from '../../backup/types.js'
import { IMAGE_DOMAIN } from '../../collected/image.js'
import type { Report, Warning } from '../../io/errors.js'
import { RangeSource } from '../../io/source.js'
import { carve } from '../../media/carving/carve.js'
import type { Carved } from '../../media/carving/types.js'
import { mimeOf } from '../../media/kinds.js'
import { useFile } from '../open.js'
import type { CategoryId } from '../registry.js'
import type { ReadContext, Sighting } from '../types.js'
import { appOf, isPreview } from './kinds.js'
import { ownWordsOf } from './own-words.js'

/** A carved file with the entry in whose bytes it lies. */
interface Found extends Carved {
  entry: SourceEntry
}

// A source of made-up bytes may hold any number of beginnings.
const MOST_FOUND = 100_000

// Databases are full of small lists that mean nothing by themselves.
const LEAST_LIST = 1000

/** What a search of a whole source came to. */
interface Search {
  found: Found[]
  warnings: Warning[]
}

// Every category takes its kinds out of the same finds; a source is searched once as long as it is open.
const searches = new WeakMap<SourceTree, Promise<Search>>()

/** Files of a category's kinds that lie inside of other files: caches, containers, databases, strays. */
export async function* carvedSightings(category: CategoryId, context: ReadContext): AsyncGenerator<Sighting> {
  const { tree, report } = context
  const searching = searches.get(tree) ?? search(context)
  searches.set(tree, searching)
  searching.catch(() => searches.delete(tree))
  const { found, warnings } = await searching
  // What could not be searched may have held files of any category.
  for (const warning of warnings) report(warning)
  for (const one of found) {
    if (categoryOf(one.mime) !== category) continue
    const { entry, start, end, mime } = one
    const said = await useFile(tree, entry, report, (source) =>
      ownWordsOf(new RangeSource(source, { start, end }), mime),
    )
    yield sightingOf(category, one, said ?? NOTHING_SAID)
  }
}

async function search({ tree, pulse }: ReadContext): Promise<Search> {
  const found: Found[] = []
  const warnings: Warning[] = []
  const report: Report = (warning) => warnings.push(warning)
  for (const entry of [...tree.entries(), ...(await tree.strays())]) {
    if (entry.kind !== 'file' || !isOpaque(entry)) continue
    // What begins with the file is the file itself, and no find inside of it; of a raw image it is one.
    const from = entry.domain === IMAGE_DOMAIN ? 0 : 1
    const ofEntry: Report = (warning) => report({ ...warning, path: entry.path })
    await useFile(tree, entry, report, async (source) => {
      for await (const one of carve(source, ofEntry, from, pulse)) {
        if (one.mime === 'application/x-plist' && one.end - one.start < LEAST_LIST) continue
        found.push({ ...one, entry })
        if (found.length === MOST_FOUND) return
      }
    })
    if (found.length < MOST_FOUND) continue
    report({ code: 'carving-given-up', message: `More than ${MOST_FOUND} files were found inside of others.` })
    break
  }
  return { found, warnings }
}

const KNOWN = /^(image|video|audio|text)\//

/** Bytes that nobody shows as what they are: anything but pictures, films, sounds and plain text. */
const isOpaque = (entry: SourceEntry): boolean =>
  entry.domain === STRAY_DOMAIN ||
  entry.domain === IMAGE_DOMAIN ||
  (isPreview(entry) && entry.path.endsWith('.ithmb')) ||
  !KNOWN.test(mimeOf(entry.path))

function categoryOf(mime: string): CategoryId {
  if (mime.startsWith('image/')) return 'app-pictures'
  if (mime.startsWith('video/')) return 'app-videos'
  return mime.startsWith('audio/') ? 'app-sounds' : 'app-files'
}

const CONFIDENCE = { whole: 1, cut: 0.6, doubtful: 0.3 } as const

const NOTHING_SAID: Pick<Sighting, 'when' | 'fields'> = { when: null, fields: {} }

function sightingOf(
  category: CategoryId,
  { entry, mime, ending, start, end, wholeness }: Found,
  said: Pick<Sighting, 'when' | 'fields'>,
): Sighting {
  const { domain, path } = entry
  const holder = path.split('/').at(-1) ?? path
  const name = `${holder} at ${start}.${ending}`
  const bytes = end - start
  return {
    category,
    condition: wholeness === 'whole' ? 'rebuilt' : 'partial',
    when: said.when,
    title: name,
    text: `inside of ${path}`,
    fields: {
      ...{ fileName: name, path, domain, app: appOf(entry), mime, bytes, wholeness, contentMissing: false },
      ...said.fields,
    },
    content: { name, bytes, mime, sha256: null, domain, path, range: { start, end } },
    origin: { domain, path, table: null, rowid: null, place: 'carved', page: null, offset: start },
    missing: [],
    confidence: CONFIDENCE[wholeness],
  }
}
