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
const cut = (text: string) => [...text].slice(0, MOST_LETTERS).join('')

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

/** The ids of the names of a batch, which are stored as far as they are new. */
export async function nameIds(
  trx: Db,
  jobId: JobId,
  batch: readonly Sighting[],
): Promise<{ person: number | null; talk: number | null }[]> {
  const wanted = batch.map((sighting) => ({ person: personOf(sighting), talk: talkOf(sighting) }))
  const ids = {
    person: await idsOf(
      trx,
      jobId,
      'person',
      wanted.map((one) => one.person),
    ),
    talk: await idsOf(
      trx,
      jobId,
      'talk',
      wanted.map((one) => one.talk),
    ),
  }
  return wanted.map(({ person, talk }) => ({
    person: ids.person.get(person) ?? null,
    talk: ids.talk.get(talk) ?? null,
  }))
}

async function idsOf(trx: Db, jobId: JobId, kind: NameKind, words: readonly string[]): Promise<Map<string, number>> {
  const byHash = new Map([...new Set(words)].filter(Boolean).map((one) => [digest('sha1', one), one]))
  if (byHash.size === 0) return new Map()
  const known = () =>
    trx('names')
      .where({ job_id: jobId, kind })
      .whereIn('hash', [...byHash.keys()])
      .select('id', 'hash')
  let rows: { id: number; hash: string }[] = await known()
  if (rows.length < byHash.size) {
    const have = new Set(rows.map(({ hash }) => hash))
    const fresh = [...byHash].filter(([hash]) => !have.has(hash))
    await trx('names')
      .insert(fresh.map(([hash, one]) => ({ job_id: jobId, kind, hash, words: one })))
      .onConflict()
      .ignore()
    rows = await known()
  }
  return new Map(rows.map(({ id, hash }) => [byHash.get(hash) as string, Number(id)]))
}
