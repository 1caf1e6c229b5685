import { CONTENT_STATES, type ContentState, RETRIABLE } from './content-states.js'

/**
 * How far a store could be read: `whole` to its end; `damaged` some of it could not be; `missing` it is listed, and its
 * content is not there or does not open; `absent` the source lists none.
 */
export type StoreState = 'whole' | 'damaged' | 'missing' | 'absent'

/** The account of one step of a read (docs/truth.md, rule 11). Stored in the database. */
export interface StepAccount {
  /** By the name that items give their store; an empty text names a category's only one. */
  stores: { [name: string]: StoreState }
  /** Items that were read. */
  read: number
  /** Rows that are listed and could not be read; pages of which not even that is known. */
  rowsSkipped: number
  pagesSkipped: number
  /** Files that are there and could not be looked into; absent in accounts that were kept before they were counted. */
  filesSkipped?: number
  content: { [state in ContentState]?: number }
}

/** True where nothing is left that another try might bring: the step is done (rule 11). */
export function isClosed(account: StepAccount): boolean {
  const { stores, content } = account
  const storesRead = Object.values(stores).every((state) => state === 'whole' || state === 'absent')
  return storesRead && skippedIn(account) === 0 && RETRIABLE.every((state) => !content[state])
}

/** The stores whose silence counts (rule 6): they were there, and were read to their end. */
export const silentStores = ({ stores }: Pick<StepAccount, 'stores'>): ReadonlySet<string> =>
  new Set(Object.entries(stores).flatMap(([name, state]) => (state === 'whole' ? [name] : [])))

/** Contents that are not there, in the order in which they are told. */
export const missingContents = ({ content }: Pick<StepAccount, 'content'>): [ContentState, number][] =>
  CONTENT_STATES.flatMap((state): [ContentState, number][] =>
    state !== 'none' && state !== 'present' && content[state] ? [[state, content[state]]] : [],
  )

/** How many rows, pages and files of a step could not be read. */
export const skippedIn = ({ rowsSkipped, pagesSkipped, filesSkipped = 0 }: StepAccount): number =>
  rowsSkipped + pagesSkipped + filesSkipped
