import type { AttachmentRef } from '../categories/attachments.js'
import type { Sighting } from '../categories/types.js'
import type { Standing } from '../findings/standing.js'
import { FormatError, type FormatErrorCode, messageOf } from '../io/errors.js'
import type { ByteRange, ByteSource } from '../io/source.js'
import type { BagWriter } from './bag.js'
import type { Places } from './names.js'

/** One finding on its way into a package: its best copy, how it stands, and access to the source's files. */
export interface HandoverItem {
  sighting: Sighting
  standing: Standing
  /** Its source, as the owner is told of it; absent where all items come from one. */
  source?: ItemSource
  /** What the technician noted to it. */
  note?: string
  /** Undefined: the source does not hold the file. The format closes what it opened. */
  open(domain: string, path: string, range?: ByteRange): Promise<ByteSource | undefined>
  /** Told that a file which the source lists could not be read to its end. */
  unreadable?: () => void
  /** A saved password by its place; undefined: it does not open. */
  reveal(place: string): Promise<string | undefined>
}

/** Where an item comes from: its name and date for everybody, its place on the shop's computer for the shop alone. */
export interface ItemSource {
  name: string
  path: string
}

/** What a format writes to. Problems with single items are noted and shown in the report. */
export interface PackageContext {
  bag: BagWriter
  places: Places
  /** By whose clocks times are given (IANA). */
  timeZone: string
  /** Files of equal content: once, and named where they come again; or each by itself. */
  duplicates: 'once' | 'each'
  note(problem: string): void
  /** Says that the content of the item at hand could not be written: it is listed as such, and not handed over. */
  missed(problem: string): void
  /** Says that the item at hand lies in this file of the package; the index names it. */
  placed(path: string): void
  /** The same of a file that hangs on it. */
  attached(file: AttachmentRef, path: string): void
  /** Where the item at hand lies so far, from the payload. */
  liesAt(): readonly string[]
}

/** Takes the items of one category, conversation by conversation, and writes them in one format. */
export interface FormatWriter {
  add(item: HandoverItem): Promise<void>
  finish(): Promise<void>
}

const UNREADABLE: readonly FormatErrorCode[] = ['unreadable', 'truncated']

/**
 * Gives a file of an item's source to `use`, and closes it. Where it cannot be had or read, `lack` is told why: one bad
 * file must not keep all others from being handed over. @returns what `use` made of it; undefined: nothing
 */
export async function useContent<T>(
  item: Pick<HandoverItem, 'open' | 'unreadable'>,
  { domain, path, range }: { domain: string; path: string; range?: ByteRange },
  lack: (why: string) => void,
  use: (source: ByteSource) => Promise<T>,
): Promise<T | undefined> {
  let source: ByteSource | undefined
  try {
    source = await item.open(domain, path, range)
    if (source) return await use(source)
    lack('its content is not in the source.')
  } catch (thrown) {
    if (!(thrown instanceof FormatError)) throw thrown
    if (UNREADABLE.includes(thrown.code)) item.unreadable?.()
    lack(`its content cannot be read (${messageOf(thrown)}).`)
  } finally {
    await source?.close()
  }
  return undefined
}
