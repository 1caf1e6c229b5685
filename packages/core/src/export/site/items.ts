import { attachmentsOf } from '../../categories/attachments.js'
import { labelOfField, valueOfField } from '../../categories/field-words.js'
import type { Json } from '../../categories/types.js'
import { itemTime } from '../../findings/item-time.js'
import { whoIs } from '../../findings/whom.js'
import { mimeOf } from '../../media/kinds.js'
import { whoOf } from '../conversation-files.js'
import { isPicture } from '../csv.js'
import type { PackagedItem } from '../packaged.js'
import { shownText } from '../plain-text.js'
import { type PreviewPlaces, shownByBrowsers } from './previews.js'
import type { SiteFile, SiteItem, SiteMessage } from './shapes.js'

/** What a page shows of one text; the whole of it stands in the item's own file and in the index. */
const MOST_TEXT = 20_000
const MOST_VALUE = 2000
const MOST_FACTS = 40

/** What the owner has no use for, or what stands elsewhere on the page: technical ids, places inside of the device. */
const UNTOLD = new Set(
  'appId attachments binnedAt body contentMissing conversation conversationTitle daysLeft domain editedPath event eventTitle fileBytes filmPath guid kind latitude longitude mime originalFileName paragraphs parent path picture reactions recipients replyTo senderName sha256 summary uniqueId unsent uuid versions withdrawn zoneKnown'.split(
    ' ',
  ),
)
/** What a message says of itself in its bubble. */
const OF_MESSAGES = ['event', 'eventTitle', 'reactions', 'versions', 'unsent', 'withdrawn'] as const

/** Makes what the pages show of items. */
export class ItemMaker {
  constructor(
    readonly zone: string,
    readonly previews: PreviewPlaces,
  ) {}

  /** Texts that an item is found by. */
  wordsIn(item: PackagedItem): string {
    const { title, text, note, fields } = item
    const values = Object.entries(fields).flatMap(([name, value]) => (SEARCHED(name) ? textsOf(value) : []))
    return [title, text, note, ...values].filter(Boolean).join('\n')
  }

  item(item: PackagedItem): SiteItem {
    const { category, title, text, standing, note, fields, missed } = item
    const when = itemTime(item, this.zone)
    const utc = itemTime(item, 'UTC')
    const isMessage = fields.body !== undefined && fields.conversation !== undefined
    const person = whoIs(item)
    return {
      kind: category,
      title: cut(title, MOST_VALUE),
      standing,
      ...(text ? { text: cut(text, MOST_TEXT) } : {}),
      ...(when ? { when } : {}),
      ...(utc && utc !== when ? { utc } : {}),
      ...this.#filesOf(item),
      ...(isMessage ? { message: this.#messageOf(item) } : { facts: this.#factsOf(item) }),
      ...(typeof fields.latitude === 'number' && typeof fields.longitude === 'number'
        ? { place: [fields.longitude, fields.latitude] as [number, number] }
        : {}),
      ...(note ? { note: cut(note, MOST_TEXT) } : {}),
      ...(person ? { person: cut(person, MOST_VALUE) } : {}),
      ...(missed ? { missed } : {}),
    }
  }

  #filesOf({ content, files, title }: PackagedItem): Pick<SiteItem, 'file' | 'large' | 'more'> {
    if (!content) return files.length > 0 ? { more: [...files] } : {}
    const [place = null, ...more] = files
    const file = this.#file(content.name || title, content.mime, place)
    const shown = files.find(shownByBrowsers) ?? (place && this.previews.large(place))
    return { file, ...(shown && shown !== place ? { large: shown } : {}), ...(more.length > 0 ? { more } : {}) }
  }

  #file(name: string, mime: string, place: string | null): SiteFile {
    const preview = place === null ? undefined : this.previews.tile(place)
    return { name: cut(name, MOST_VALUE), mime: mime || mimeOf(name), place, ...(preview ? { preview } : {}) }
  }

  #messageOf(item: PackagedItem): SiteMessage {
    const { fields, attached = [] } = item
    return {
      who: cut(whoOf(item), MOST_VALUE),
      out: fields.direction === 'out',
      fields: Object.fromEntries(OF_MESSAGES.map((name) => [name, fields[name] ?? null] as const).filter(isSaid)),
      files: attachmentsOf(item).map(({ name, mime }, i) => this.#file(name, mime, attached[i] ?? null)),
    }
  }

  #factsOf({ fields, title, text }: PackagedItem): [string, string][] {
    return Object.entries(fields)
      .filter(([name, value]) => !UNTOLD.has(name) && value !== false && !isPicture(value))
      .flatMap(([name, value]): [string, string][] => {
        const words = cut(valueOfField(name, value, this.zone), MOST_VALUE)
        return words === '' || words === title || words === text ? [] : [[labelOfField(name), words]]
      })
      .slice(0, MOST_FACTS)
  }
}

const SEARCHED = (name: string) => !UNTOLD.has(name) || name === 'conversationTitle' || name === 'senderName'

const isSaid = ([, value]: readonly [string, Json]): boolean =>
  value !== null && value !== false && !(Array.isArray(value) && value.length === 0)

/** A text as a page shows it, and no longer than that. */
const cut = (text: string, most: number): string =>
  text.length <= most ? shownText(text) : `${shownText(text.slice(0, most))} …`

const MOMENT = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$/

function textsOf(value: Json): string[] {
  if (typeof value === 'string') return MOMENT.test(value) ? [] : [value]
  if (value === null || typeof value !== 'object' || isPicture(value)) return []
  return (Array.isArray(value) ? value : Object.values(value)).flatMap(textsOf)
}
