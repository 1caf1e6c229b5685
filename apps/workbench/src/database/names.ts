import { placesOf } from '@lumbrin/core/categories/content-state'
import type { Sighting } from '@lumbrin/core/categories/types'
import { digest } from '@lumbrin/core/io/hash'
import type { JobId } from '../domain/ids.js'
import type { Having } from '../domain/search-text.js'
import type { Db } from './connection.js'

/**
 * What a search asks for by name. Each name stands once in a job, and findings point to it: `from:` and `in:` look at
 * some thousand names, and not at every finding.
 */
export type NameKind = 'person' | 'talk'

/** What a finding has, as bits of one number. */
export const HAS_BITS = { attachment: 1, content: 2, place: 4, reply: 8 } as const

/** All numbers in which a bit is set. */
export const numbersWith = (having: Having): number[] =>
  Array.from({ length: 16 }, (_, number) => number).filter((number) => number & HAS_BITS[having])

const PERSON_FIELDS = ['senderName', 'sender', 'name', 'address'] as const
const MOST_LETTERS = 800

const textOf = (value: unknown): string => (typeof value === 'string' ? value : '')
const cut = (text: string) => (text.length <= MOST_LETTERS ? text : [...text].slice(0, MOST_LETTERS).join(''))

/** Whom an item is from: the name and the address, as far as it says. */
const personOf = ({ fields }: Sighting): string =>
  cut([...new Set(PERSON_FIELDS.map((name) => textOf(fields[name])).filter(Boolean))].join('\n'))

/** The name of the conversation that an item belongs to. */
const talkOf = ({ fields, title }: Sighting): string =>
  cut(textOf(fields.conversationTitle) || (textOf(fields.conversation) ? title : ''))

/** What an item has, as a number of bits. */
export function hasOf(sighting: Sighting): number {
  const { fields, content } = sighting
  const attached = Array.isArray(fields.attachments) && fields.attachments.length > 0
  return (
    (attached ? HAS_BITS.attachment : 0) |
    (content !== null && placesOf(sighting).length > 0 ? HAS_BITS.content : 0) |
    (typeof fields.latitude === 'number' ? HAS_BITS.place : 0) |
    (textOf(fields.replyTo) ? HAS_BITS.reply : 0)
  )
}

/** By what a search finds an item; an empty text: by nothing. */
export type Names = Record<NameKind, string>

export const namesOf = (sighting: Sighting): Names => ({ person: personOf(sighting), talk: talkOf(sighting) })

export interface NameIds {
  person_id: number | null
  talk_id: number | null
}

/** The ids of names, which are stored as far as they are new. */
export async function nameIds(trx: Db, jobId: JobId, wanted: readonly Names[]): Promise<NameIds[]> {
  const rows = new Map<string, NameRow>()
  for (const names of wanted)
    for (const kind of ['person', 'talk'] as const) {
      const words = names[kind]
      if (words && !rows.has(`${kind} ${words}`))
        rows.set(`${kind} ${words}`, { job_id: jobId, kind, hash: digest('sha1', words), words })
    }
  const ids = await storedIds(trx, jobId, [...rows.values()])
  const idOf = (kind: NameKind, words: string) => {
    const row = rows.get(`${kind} ${words}`)
    return row ? (ids.get(`${kind} ${row.hash}`) ?? null) : null
  }
  return wanted.map(({ person, talk }) => ({ person_id: idOf('person', person), talk_id: idOf('talk', talk) }))
}

interface NameRow {
  job_id: JobId
  kind: NameKind
  hash: string
  words: string
}

/** Ids by kind and hash. */
async function storedIds(trx: Db, jobId: JobId, rows: readonly NameRow[]): Promise<Map<string, number>> {
  if (rows.length === 0) return new Map()
  const known = async () => {
    const found = await trx('names')
      .where({ job_id: jobId })
      .whereIn('kind', ['person', 'talk'])
      .whereIn(
        'hash',
        rows.map(({ hash }) => hash),
      )
      .select('id', 'kind', 'hash')
    return new Map(found.map(({ id, kind, hash }) => [`${kind} ${hash}`, Number(id)]))
  }
  const have = await known()
  const fresh = rows.filter(({ kind, hash }) => !have.has(`${kind} ${hash}`))
  if (fresh.length === 0) return have
  await trx('names').insert(fresh).onConflict().ignore()
  return known()
}
