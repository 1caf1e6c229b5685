import type { SourceEntry, SourceTree } from '../backup/types.js'
import type { Report, Warning } from '../io/errors.js'
import { BUILT_IN_PROFILES } from './chats/built-in.js'
import type { Profile } from './chats/profile.js'
import type { ContentState } from './content-states.js'
import { LIBRARY_LIST_OF } from './library/index.js'
import { storesFor } from './needs.js'
import { matchesOf, storesOf } from './places.js'
import type { ReadStep } from './read.js'
import type { CategoryId } from './registry.js'
import type { StepAccount, StoreState } from './step-account.js'
import { CATEGORIES } from './table.js'
import type { Sighting, StorePlace } from './types.js'

// Warnings that say of a store that part of it was not read.
const DAMAGE = [
  'store-damaged',
  'store-unknown',
  'page-skipped',
  'row-skipped',
  'wal-unfit',
  'library-line',
  'items-locked',
]
// Warnings that say of a source's list that part of it was not read: what is a file of its own may stand there.
const LISTS = ['Manifest.db', 'Manifest.mbdb']
const LIST_DAMAGE = ['listing-damaged', 'manifest-damaged', 'entries-refused']

/** True where warnings of its opening say that part of a source's list could not be read. */
export const isListDamaged = (warnings: readonly Warning[]): boolean =>
  warnings.some(({ code, path = '' }) => LIST_DAMAGE.includes(code) || LISTS.includes(path))

/** The name of the store that would hold an item. */
export const storeNameOf = ({ category, fields }: Pick<Sighting, 'category' | 'fields'>): string =>
  (category === 'chats' || category === 'chat-attachments') && typeof fields.app === 'string' ? fields.app : ''

/** Keeps the account of a step while it is read: hand its `report` to whatever reads. */
export class StepAccountant {
  readonly #damaged = new Set<string>()
  readonly #missing = new Set<string>()
  #listDamaged = false
  #rows = 0
  #pages = 0
  readonly #files = new Set<string>()
  #read = 0
  readonly #content = new Map<ContentState, number>()

  /** `listDamaged`: part of the source's list could not be read when it was opened. */
  constructor(
    readonly tree: SourceTree,
    readonly step: ReadStep,
    readonly forward: Report,
    readonly profiles: readonly Profile[] = [],
    listDamaged = false,
  ) {
    this.#listDamaged = listDamaged
  }

  readonly report: Report = (warning) => {
    this.#note(warning)
    this.forward(warning)
  }

  #note({ code, path = '' }: Warning): void {
    if (code === 'content-missing') this.#missing.add(path)
    else if (DAMAGE.includes(code)) this.#damaged.add(path)
    if (LIST_DAMAGE.includes(code)) this.#listDamaged = true
    if (code === 'row-skipped') this.#rows++
    if (code === 'page-skipped') this.#pages++
    if (code === 'file-unreadable') this.#files.add(path)
  }

  /** Counts an item with what can be had of its content. */
  item(content: ContentState): void {
    this.#read++
    this.#content.set(content, (this.#content.get(content) ?? 0) + 1)
  }

  /** Counts items that were read and could not be kept: they are missing as rows that could not be read are. */
  notStored(count: number): void {
    if (count <= 0) return
    const message = `${count} ${count === 1 ? 'item' : 'items'} could not be stored: the database did not take them.`
    this.report({ code: 'not-stored', message: `${CATEGORIES[this.step.category].label}: ${message}` })
    this.#read -= count
    this.#rows += count
  }

  /** The account as it stands: closed once the step has ended. */
  account(): StepAccount {
    return {
      stores: this.#stores(),
      read: this.#read,
      rowsSkipped: this.#rows,
      pagesSkipped: this.#pages,
      filesSkipped: this.#files.size,
      content: Object.fromEntries(this.#content),
    }
  }

  #stores(): { [name: string]: StoreState } {
    const { category } = this.step
    if (this.tree.info.kind === 'image') return { '': 'absent' }
    if (this.tree.info.kind === 'cloud-library') return { '': this.#listState(category) }
    if (category === 'chats' || category === 'chat-attachments') return this.#chatStores()
    const places = storesFor(category)
    if (places.length === 0) return { '': this.#listDamaged ? 'damaged' : 'whole' }
    return { '': this.#stateOf(storesOf(this.tree, places)) }
  }

  #listState(category: CategoryId): StoreState {
    if (!LIBRARY_LIST_OF[category]) return 'absent'
    return this.#damaged.size > 0 ? 'damaged' : 'whole'
  }

  /** Each application has a store of its own. */
  #chatStores(): { [name: string]: StoreState } {
    const stores = new Map<string, SourceEntry[]>()
    for (const { app, stores: places } of [...this.profiles, ...BUILT_IN_PROFILES])
      stores.set(app, [
        ...(stores.get(app) ?? []),
        ...places.flatMap((place: StorePlace) => matchesOf(this.tree, place)),
      ])
    return Object.fromEntries([...stores].map(([app, entries]) => [app, this.#stateOf(entries)]))
  }

  #stateOf(entries: readonly SourceEntry[]): StoreState {
    const paths = entries.map(({ path }) => path)
    // A store that only the list of a damaged source would name may be there all the same.
    if (paths.length === 0) return this.#listDamaged ? 'damaged' : 'absent'
    if (paths.some((path) => this.#missing.has(path))) return 'missing'
    return this.#damaged.size > 0 && paths.some((path) => this.#isDamaged(path)) ? 'damaged' : 'whole'
  }

  /** A warning names the file that it is about; one without a name may be about any. */
  #isDamaged(path: string): boolean {
    return this.#damaged.has(path) || this.#damaged.has('')
  }
}
