import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Sighting } from '@lumbrin/core/categories/types'
import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import type { Knex } from 'knex'
import type { FindingLine } from '../domain/finding.js'
import type { JobId } from '../domain/ids.js'
import type { Person } from '../domain/person.js'
import { PERSON_PAGE } from '../domain/whom.js'
import type { Db } from './connection.js'
import { parsed } from './json.js'
import type { NameKind } from './names.js'
import { IS_LOST, toLine } from './queries.js'
import { findingsInTray, IN_TRAY, joinTray } from './tray-blocks.js'

/** A person as findings know them: what they are called, and the rows of names that are theirs. */
export interface Known {
  name: string
  addresses: string[]
  /** Of whom an item is from, and of conversations with them alone. */
  persons: number[]
  talks: number[]
}

// Of these the title is a person; a lost conversation has nothing else that tells with whom it was.
const TITLED_BY_PERSON: readonly CategoryId[] = ['contacts', 'calls', 'messages', 'chats', 'voicemail']

/** The rows of names that are those of a person: by the name, and by the addresses that stand beside it somewhere. */
export async function knownAs(db: Db, jobId: JobId, name: string): Promise<Known> {
  const own = await namesHolding(db, jobId, 'person', [name])
  const addresses = [...new Set(own.flatMap(({ lines }) => lines))].filter((line) => !same(line, name))
  const called = [name, ...addresses]
  const [persons, talks] = await Promise.all([
    namesHolding(db, jobId, 'person', called),
    namesHolding(db, jobId, 'talk', called),
  ])
  const ids = (rows: readonly NameRow[]) => rows.map(({ id }) => id)
  return { name, addresses, persons: ids(persons), talks: ids(talks.filter(({ lines }) => lines.length === 1)) }
}

interface NameRow {
  id: number
  lines: string[]
}

const same = (a: string, b: string) => a.toLowerCase() === b.toLowerCase()

/** Names one of whose lines is one of these words. */
async function namesHolding(db: Db, jobId: JobId, kind: NameKind, words: readonly string[]): Promise<NameRow[]> {
  const rows: { id: number; words: string }[] = await db('names')
    .where({ job_id: jobId, kind })
    .where((some) => {
      for (const word of words) some.orWhereRaw('LOCATE(?, words) > 0', [word])
    })
    .select('id', 'words')
  return rows
    .map((row) => ({ id: Number(row.id), lines: row.words.split('\n') }))
    .filter(({ lines }) => lines.some((line) => words.some((word) => same(line, word))))
}

/** The ids of all findings with a person. */
function idsWith(db: Db, jobId: JobId, { name, addresses, persons, talks }: Known): Knex.QueryBuilder {
  const mine = () => db('findings').where({ job_id: jobId }).select('id')
  return mine()
    .whereIn('person_id', persons)
    .union([
      mine().whereIn('talk_id', talks),
      mine()
        .whereIn('category', [...TITLED_BY_PERSON])
        .whereIn('title', [name, ...addresses]),
    ])
}

/** Which of a person's findings: those alone that are gone from the device, and those of one category. */
export interface Which {
  lost: boolean
  category: CategoryId | null
}

/** Findings with a person. */
export function findingsWith(db: Db, jobId: JobId, known: Known, { lost, category }: Which): Knex.QueryBuilder {
  const query = db('findings')
    .where('findings.job_id', jobId)
    .whereIn('findings.id', db.from(idsWith(db, jobId, known).as('theirs')).select('theirs.id'))
  if (lost) query.whereIn('findings.standing', [...LOST_STANDINGS])
  if (category) query.where('findings.category', category)
  return query
}

/** How many there are by category, how many of them are gone, and how many lie in the tray. */
export async function countPerson(db: Db, jobId: JobId, known: Known): Promise<Person['counts']> {
  const rows: { category: CategoryId; count: unknown; lost: unknown }[] = await findingsWith(db, jobId, known, {
    lost: false,
    category: null,
  })
    .groupBy('category')
    .select('category')
    .count({ count: '*' })
    .sum({ lost: db.raw(IS_LOST) })
  const chosen: { category: CategoryId; count: unknown }[] = await findingsInTray(db, jobId)
    .whereIn('findings.id', db.from(idsWith(db, jobId, known).as('theirs')).select('theirs.id'))
    .groupBy('category')
    .select('category')
    .count({ count: '*' })
  return rows
    .map(({ category, count, lost }) => ({
      category,
      count: Number(count),
      lost: Number(lost),
      inTray: Number(chosen.find((one) => one.category === category)?.count ?? 0),
    }))
    .sort((a, b) => b.count - a.count)
}

const CARDS_AT_ONCE = 1000

/** The cards of all sources of a job, those of the newest states first. */
export async function* cardsOf(db: Db, jobId: JobId): AsyncGenerator<Pick<Sighting, 'title' | 'fields'>> {
  const ids: number[] = await db('sightings')
    .join('sources', 'sources.id', 'sightings.source_id')
    .where('sightings.job_id', jobId)
    .where('sightings.category', 'contacts')
    .orderBy([{ column: 'sources.taken_at', order: 'desc' }, 'sightings.id'])
    .pluck('sightings.id')
  for (let at = 0; at < ids.length; at += CARDS_AT_ONCE) {
    const part = ids.slice(at, at + CARDS_AT_ONCE)
    const rows = await db('sightings').whereIn('id', part).select('id', 'title', 'fields')
    const byId = new Map(rows.map((row) => [Number(row.id), row]))
    for (const id of part) {
      const row = byId.get(id)
      if (row) yield { title: row.title, fields: parsed(row.fields) }
    }
  }
}

/** Where a page ends: the next one starts behind it. */
export interface Behind {
  when: Date | null
  id: number
}

/** A page of everything with a person, the newest first, what has no date last. */
export async function pageOfPerson(
  db: Db,
  jobId: JobId,
  known: Known,
  { behind, ...which }: Which & { behind: Behind | null },
): Promise<FindingLine[]> {
  const query = findingsWith(db, jobId, known, which)
  if (behind) query.where((rest) => isBehind(rest, behind))
  const ids: number[] = await query
    .orderByRaw('findings.happened_at DESC, findings.id DESC')
    .limit(PERSON_PAGE)
    .pluck('findings.id')
  const rows = await joinTray(db, db('findings'))
    .join('sightings', 'sightings.id', 'findings.best_sighting_id')
    .whereIn('findings.id', ids)
    .orderByRaw('findings.happened_at DESC, findings.id DESC')
    .select('findings.*', 'sightings.fields', 'sightings.content', db.raw(IN_TRAY))
  return rows.map(toLine)
}

// NULL comes last in descending order.
function isBehind(query: Knex.QueryBuilder, { when, id }: Behind): void {
  if (when === null) query.whereNull('findings.happened_at').where('findings.id', '<', id)
  else
    query
      .where('findings.happened_at', '<', when)
      .orWhereNull('findings.happened_at')
      .orWhere((same) => same.where('findings.happened_at', when).where('findings.id', '<', id))
}
