import { linkTo } from '../attached.js'
import type { BagWriter } from '../bag.js'
import { escapeHtml, page } from '../html.js'
import type { OpenFile } from '../open-file.js'
import { SITE } from './parts.js'
import type { SiteConversation, SiteItem, SiteKind } from './shapes.js'

/** So many items stand on one page. */
const ITEMS_A_PAGE = 400

const STYLE = `<style>
.shelf{display:flex;flex-wrap:wrap;gap:.75rem;padding:0}.shelf figure{margin:0;width:10rem}
.shelf img{width:10rem;height:10rem;object-fit:cover;display:block}
figcaption,.facts{font-size:.85em;overflow-wrap:anywhere}article{margin:1rem 0;overflow-wrap:anywhere}article p{margin:.2rem 0;white-space:pre-wrap}
</style>`

// From these pages, `data/site/plain/`, to the package's top.
const UP = '../../../'
const link = (place: string): string => escapeHtml(UP + linkTo(place))

/** The first page of a kind, from the package's top. */
export const plainPageOf = (kind: string, number = 1): string =>
  `data/${SITE}/plain/${kind}${number === 1 ? '' : `-${number}`}.html`

/** The items of a kind as pages that need no script, some hundred on each. */
export class PlainPages {
  #file: OpenFile | undefined
  #foot = ''
  #page = 0
  #count = 0
  #day: string | undefined

  constructor(
    readonly bag: BagWriter,
    readonly kind: Pick<SiteKind, 'id' | 'label' | 'layout'>,
    readonly zone: string,
  ) {}

  async add(item: SiteItem): Promise<void> {
    if (this.#count % ITEMS_A_PAGE === 0) await this.#turn(true)
    this.#count++
    const day = item.when?.slice(0, 10) ?? 'No date'
    const isGallery = this.kind.layout === 'gallery'
    if (day !== this.#day) {
      const shelf = isGallery ? ['</div>', '<div class="shelf">'] : ['', '']
      await this.#file?.write(`${this.#day === undefined ? '' : shelf[0]}\n<h2>${escapeHtml(day)}</h2>${shelf[1]}\n`)
      this.#day = day
    }
    await this.#file?.write(isGallery ? figureOf(item) : articleOf(item))
  }

  async finish(): Promise<void> {
    await this.#turn(false)
  }

  /** Ends the page at hand, and begins another one. */
  async #turn(goesOn: boolean): Promise<void> {
    const ending = this.#day !== undefined && this.kind.layout === 'gallery' ? '</div>' : ''
    const next = goesOn ? `<p><a href="${nameOf(this.kind.id, this.#page + 1)}">Next page</a></p>` : ''
    await this.#file?.write(`${ending}${next}${this.#foot}`)
    await this.#file?.close()
    this.#file = undefined
    this.#day = undefined
    if (!goesOn) return
    this.#page++
    this.#file = await this.bag.open(plainPageOf(this.kind.id, this.#page).slice('data/'.length))
    const before = this.#page > 1 ? ` · <a href="${nameOf(this.kind.id, this.#page - 1)}">Page before</a>` : ''
    const [head = '', foot = ''] = page(
      this.kind.label,
      `${STYLE}<p><a href="${UP}index.html">Start</a>${before}</p>
<h1>${escapeHtml(this.kind.label)}</h1><p class="soft">Times are those of ${escapeHtml(this.zone)}.</p>\0`,
    ).split('\0')
    this.#foot = foot
    await this.#file.write(head)
  }
}

const nameOf = (kind: string, number: number): string => plainPageOf(kind, number).split('/').at(-1) ?? ''

const standingOf = ({ standing }: SiteItem): string => (standing === 'kept' ? '' : ` · ${standing}`)

function figureOf(item: SiteItem): string {
  const { title, file, large, when } = item
  const place = large ?? file?.place
  const picture = file?.preview ? `<img src="${link(file.preview)}" alt="" loading="lazy">` : escapeHtml(title)
  const shown = place ? `<a href="${link(place)}">${picture}</a>` : escapeHtml(title)
  const words = [title, when?.slice(11)].filter(Boolean).join(' · ')
  return `<figure>${shown}<figcaption>${escapeHtml(words + standingOf(item))}</figcaption></figure>\n`
}

function articleOf(item: SiteItem): string {
  const { title, text, when, facts = [], file, more = [], message, note } = item
  const head = [message?.who ?? title, when?.slice(11)].filter(Boolean).join(' · ')
  const places = [file?.place, ...more, ...(message?.files.map(({ place }) => place) ?? [])]
  const links = places.flatMap((place) =>
    place ? [`<a href="${link(place)}">${escapeHtml(place.split('/').at(-1) ?? '')}</a>`] : [],
  )
  return `<article><b>${escapeHtml(head)}</b><span class="soft">${escapeHtml(standingOf(item))}</span>
${text && text !== title ? `<p>${escapeHtml(text)}</p>` : ''}${facts.length > 0 ? `<div class="facts soft">${escapeHtml(facts.map(([label, value]) => `${label}: ${value}`).join(' · '))}</div>` : ''}${note ? `<p>Note: ${escapeHtml(note)}</p>` : ''}${links.length > 0 ? `<div class="facts">${links.join(' · ')}</div>` : ''}</article>
`
}

/** A page that leads to the conversations of a kind which have pages, and to what has none. @returns its place */
export async function writeConversationList(
  bag: BagWriter,
  kind: Pick<SiteKind, 'id' | 'label'>,
  conversations: readonly SiteConversation[],
  goesOn: boolean,
): Promise<string> {
  const place = plainPageOf(`${kind.id}-list`)
  const lines = conversations.map(({ title, page: place, days, from, to, lost }) => {
    const words = `${to - from}${lost > 0 ? `, of which ${lost} were deleted` : ''}${days ? `, ${days[0]} to ${days[1]}` : ''}`
    return `<li><a href="${link(place ?? '')}">${escapeHtml(title)}</a> <span class="soft">${escapeHtml(words)}</span></li>`
  })
  const rest = goesOn ? `<p><a href="${nameOf(kind.id, 1)}">Those without a page of their conversation</a></p>` : ''
  const head = `<p><a href="${UP}index.html">Start</a></p><h1>${escapeHtml(kind.label)}</h1>`
  await bag.write(place.slice('data/'.length), page(kind.label, `${head}<ul>${lines.join('\n')}</ul>${rest}`))
  return place
}
