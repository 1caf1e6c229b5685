import { join } from 'node:path'
import { CATEGORIES } from '../../categories/table.js'
import { LOST_STANDINGS } from '../../findings/standing.js'
import type { BagWriter } from '../bag.js'
import { PAYLOAD, type PartStarts } from '../bag-types.js'
import type { PackagedItem } from '../packaged.js'
import { MEANING, type Report } from '../report.js'
import { Catalog, conversationOf } from './catalog.js'
import { fontStyle, LettersUsed } from './fonts.js'
import { ItemMaker } from './items.js'
import { Parts, SITE, writePart } from './parts.js'
import { SitePeople } from './people.js'
import { PlainPages, plainPageOf, writeConversationList } from './plain-pages.js'
import { PreviewPlaces } from './previews.js'
import type { SiteProgram } from './program.js'
import { SearchIndex } from './search-index.js'
import {
  ITEMS_A_PART,
  type Layout,
  type SiteConversation,
  type SiteDays,
  type SiteItem,
  type SiteKind,
  type SiteMessage,
  type SitePlace,
  type SiteStart,
} from './shapes.js'
import { startPage } from './start-page.js'

// What a conversation quotes of a message that is answered, and how many it remembers.
const MOST_QUOTED = 120
const MOST_ANSWERED = 20_000
const MOST_PLACES = 50_000
const MOST_MEMBERS = 100

/** Makes the page at a package's top, which tells where the content of each part begins; none: it is not in parts. */
export type PageOfParts = (parts: PartStarts) => string

/**
 * Writes the pages by which an owner looks at a package, from its index, which lies in the bag already: data in parts,
 * index of words, pages without scripts. @returns what makes the page that belongs at the package's top
 */
export async function writeSite(
  bag: BagWriter,
  { report, zone, program }: { report: Report; zone: string; program: SiteProgram },
): Promise<PageOfParts> {
  const catalog = await Catalog.open(join(bag.staging, PAYLOAD, 'index.jsonl'))
  try {
    const writing = new SiteWriting(bag, catalog, zone)
    const start = await writing.write(report)
    const fonts = await fontStyle(writing.letters, program.fonts)
    await writePart(bag, 'start', start)
    await bag.write(`${SITE}/site.js`, program.script)
    await bag.write(`${SITE}/site.css`, program.style)
    if (fonts) await bag.write(`${SITE}/fonts.css`, fonts)
    return (parts) => startPage(start, { fonts: fonts !== '', parts })
  } finally {
    await catalog.close()
  }
}

/** The pages of a package while they are being written, item by item. */
class SiteWriting {
  readonly letters = new LettersUsed()
  readonly #maker: ItemMaker
  readonly #items: Parts<SiteItem>
  readonly #index: SearchIndex
  readonly #people = new SitePeople()
  readonly #kinds: SiteKind[] = []
  readonly #conversations: SiteConversation[] = []
  readonly #places: SitePlace[] = []
  #days: SiteDays = []
  #pages: PlainPages | undefined
  #conversation: string | null = null
  /** Of the conversation at hand, what others answer. */
  #answered = new Map<string, NonNullable<SiteMessage['answers']>>()

  constructor(
    readonly bag: BagWriter,
    readonly catalog: Catalog,
    readonly zone: string,
  ) {
    this.#maker = new ItemMaker(zone, new PreviewPlaces([...bag.earlier, ...bag.files].map(({ path }) => path)))
    this.#items = new Parts(bag, 'items', ITEMS_A_PART)
    this.#index = new SearchIndex(join(bag.staging, 'words'))
  }

  async write(report: Report): Promise<SiteStart> {
    for (let from = 0; from < this.catalog.size; from += ITEMS_A_PART)
      for (const [i, item] of (await this.catalog.items(from, from + ITEMS_A_PART)).entries())
        await this.#add(from + i, item)
    await this.#endKind()
    await this.#items.finish()
    await this.#people.finish(this.bag)
    await writePart(this.bag, 'conversations', this.#conversations)
    await writePart(this.bag, 'places', this.#places)
    const { title, writtenAt, facts, notHad, problems, missed, check } = report
    return {
      ...{ title, writtenAt, facts, notHad, problems, missed, check },
      zone: this.zone,
      kinds: this.#kinds,
      meaning: MEANING,
      people: this.#people.size,
      places: this.#places.length,
      words: await this.#index.finish(this.bag),
    }
  }

  async #add(number: number, packaged: PackagedItem): Promise<void> {
    const kind = await this.#kindOf(number, packaged)
    const item = this.#maker.item(packaged)
    const lost = LOST_STANDINGS.includes(item.standing) ? 1 : 0
    kind.to = number + 1
    kind.lost += lost
    if (item.message) this.#converse(number, packaged, item, lost)
    else this.#note(number, item, lost)
    await this.#items.add(item)
    const words = this.#maker.wordsIn(packaged)
    this.letters.see(words)
    await this.#index.add(number, words)
    this.#people.add(number, packaged)
    if (!item.message || packaged.files.length === 0) await this.#plain(kind, item)
  }

  /** The kind at hand; another one begins where the item is of another. */
  async #kindOf(number: number, { category }: PackagedItem): Promise<SiteKind> {
    const open = this.#kinds.at(-1)
    if (open?.id === category) return open
    await this.#endKind()
    const { label } = CATEGORIES[category]
    const plain = plainPageOf(category)
    const kind: SiteKind = { id: category, label, layout: layoutOf(category), from: number, to: number, lost: 0, plain }
    this.#kinds.push(kind)
    return kind
  }

  async #endKind(): Promise<void> {
    const kind = this.#kinds.at(-1)
    if (!kind) return
    await this.#pages?.finish()
    const paged = this.#conversations.filter((one) => one.kind === kind.id && one.page !== null)
    if (paged.length > 0) kind.plain = await writeConversationList(this.bag, kind, paged, this.#pages !== undefined)
    if (kind.layout !== 'conversations') await writePart(this.bag, `days-${kind.id}`, this.#days)
    this.#pages = undefined
    this.#days = []
    this.#conversation = null
  }

  /** What stands in no conversation stands under its day. */
  #note(number: number, { when, place }: SiteItem, lost: 0 | 1): void {
    const day = when?.slice(0, 10) ?? ''
    if (this.#days.at(-1)?.[0] !== day) this.#days.push([day, number])
    if (place && this.#places.length < MOST_PLACES) this.#places.push([number, ...place, lost])
  }

  #converse(number: number, packaged: PackagedItem, item: SiteItem, lost: number): void {
    const key = conversationOf(packaged)
    const { fields, category, files } = packaged
    if (key !== this.#conversation) {
      this.#conversation = key
      this.#answered = new Map()
      const own = typeof fields.conversation === 'string' ? fields.conversation : null
      const title = own === null ? `${item.title || 'Unknown'} (its conversation is lost)` : item.title || own
      const page = files.find((path) => path.endsWith('.html')) ?? files[0] ?? null
      this.#conversations.push({
        ...{ kind: category, title, page, members: [], from: number, to: number, lost: 0, days: null },
      })
    }
    const open = this.#conversations.at(-1) as SiteConversation
    open.to = number + 1
    open.lost += lost
    const day = item.when?.slice(0, 10)
    if (day) open.days = [open.days?.[0] ?? day, day]
    if (item.message) this.#quote(number, packaged, item, item.message, open)
  }

  #quote(number: number, { fields }: PackagedItem, item: SiteItem, message: SiteMessage, open: SiteConversation): void {
    const { members } = open
    if (!message.out && members.length < MOST_MEMBERS && !members.includes(message.who)) members.push(message.who)
    const answers = typeof fields.replyTo === 'string' ? this.#answered.get(fields.replyTo) : undefined
    if (answers) message.answers = answers
    const { guid } = fields
    if (typeof guid !== 'string' || !this.catalog.answered.has(guid) || this.#answered.size > MOST_ANSWERED) return
    const text = (item.text ?? message.files[0]?.name ?? '').slice(0, MOST_QUOTED).toWellFormed()
    this.#answered.set(guid, { who: message.who, text, at: number })
  }

  /** What has no page of its own in the package stands on a list that needs no script. */
  async #plain(kind: SiteKind, item: SiteItem): Promise<void> {
    this.#pages ??= new PlainPages(this.bag, kind, this.zone)
    await this.#pages.add(item)
  }
}

function layoutOf(category: SiteKind['id']): Layout {
  const { layouts = [], group, nature, contents } = CATEGORIES[category]
  if (layouts.includes('conversations')) return 'conversations'
  const isSeen = layouts.includes('grid') || (group === 'pictures' && nature === 'files' && contents !== 'sound')
  return isSeen ? 'gallery' : 'list'
}
