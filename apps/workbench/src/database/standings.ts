import { storeNameOf } from '@lumbrin/core/categories/account'
import type { ContentState } from '@lumbrin/core/categories/content-states'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Condition, Json } from '@lumbrin/core/categories/types'
import { matchOf, type Sought } from '@lumbrin/core/findings/match'
import { type Claim, claimOf } from '@lumbrin/core/findings/standing'
import type { SeenAs } from '@lumbrin/core/findings/states'
import { soughtOf } from '../domain/brief.js'
import type { JobId, SourceId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { findJob } from './jobs.js'
import { parsed } from './json.js'
import { categoryStates, type JobStates } from './states.js'

type SeenRow = SeenAs & { id: number }

/** Works out what is claimed of findings from all their sightings, and shows the best copy's words. */
export async function restand(trx: Db, jobId: JobId, category: CategoryId, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return
  const job = await categoryStates(trx, jobId, category)
  const sought = await soughtIn(trx, jobId)
  const groups = await seenOf(trx, ids)
  const claims = await claimsOf(trx, category, groups, job)
  const shown = await shownOf(
    trx,
    [...claims.values()].flatMap(({ best, binned }) => [best.id, ...(binned ? [binned.id] : [])]),
  )
  const changes = [...claims].map(([id, claim]) => {
    const { title, text, fields } = shown.get(claim.best.id) as Shown
    const { standing } = claim
    const binnedAt = binnedAtOf(claim, shown)
    // What is in the bin of the account went on the day on which it was put there.
    const binned =
      standing === 'elsewhere' && binnedAt ? { from: binnedAt.getTime(), to: binnedAt.getTime() } : undefined
    const { score } = matchOf(sought, { category, standing, title, text, fields, window: claim.window ?? binned })
    return { id, claim, seen: groups.get(id)?.length ?? 0, score, binnedAt }
  })
  await storeChanges(trx, ids, changes)
}

/** Items of some categories tell by their fields which store would hold them; of the others there is one store. */
async function claimsOf(
  trx: Db,
  category: CategoryId,
  groups: ReadonlyMap<number, SeenRow[]>,
  { states, brief }: JobStates,
): Promise<Map<number, Claim<SeenRow>>> {
  const several = states.some(({ silent }) => [...silent].some((name) => name !== ''))
  const firsts = several ? [...groups.values()].map((seen) => (seen[0] as SeenRow).id) : []
  const shown = await shownOf(trx, firsts)
  return new Map(
    [...groups].map(([id, seen]) => {
      const fields = shown.get((seen[0] as SeenRow).id)?.fields ?? {}
      return [id, claimOf(seen, states, brief, storeNameOf({ category, fields }))]
    }),
  )
}

function binnedAtOf({ binned }: Claim<SeenRow>, shown: ReadonlyMap<number, Shown>): Date | null {
  const at = binned && shown.get(binned.id)?.fields.binnedAt
  return typeof at === 'string' && !Number.isNaN(Date.parse(at)) ? new Date(at) : null
}

interface Change {
  id: number
  claim: Claim<SeenRow>
  seen: number
  score: number
  binnedAt: Date | null
}

const COLUMNS = [
  'standing',
  'best_sighting_id',
  'sighting_count',
  'match_score',
  'binned_at',
  'lost_after',
  'lost_before',
] as const

const dated = (at: number | null | undefined): Date | null => (at == null ? null : new Date(at))
const valuesOf = ({ claim, seen, score, binnedAt }: Change) => [
  claim.standing,
  claim.best.id,
  seen,
  score,
  binnedAt,
  dated(claim.window?.from),
  dated(claim.window?.to),
]
const asText = (values: readonly unknown[]) =>
  values.map((value) => (value instanceof Date ? value.getTime() : value)).join(' ')

async function storeChanges(trx: Db, ids: readonly number[], all: readonly Change[]): Promise<void> {
  const rows = await trx('findings')
    .whereIn('id', [...ids])
    .select('id', 'content_state', ...COLUMNS)
  const said = new Map(
    rows.map((row) => [Number(row.id), `${row.content_state} ${asText(COLUMNS.map((name) => row[name]))}`]),
  )
  const changes = all.filter((one) => said.get(one.id) !== `${one.claim.best.content} ${asText(valuesOf(one))}`)
  if (changes.length === 0) return
  // One statement for the whole batch; the words shown are those of the best copy.
  const listed = changes.map(() => `SELECT ? AS id, ${COLUMNS.map((name) => `? AS ${name}`).join(', ')}`)
  await trx.raw(
    `UPDATE findings f JOIN (${listed.join(' UNION ALL ')}) c ON c.id = f.id JOIN sightings s ON s.id = c.best_sighting_id
     SET ${COLUMNS.map((name) => `f.${name} = c.${name}`).join(', ')},
       f.happened_at = s.happened_at, f.title = s.title, f.text = s.text, f.content_state = s.content_state,
       f.person_id = s.person_id, f.talk_id = s.talk_id, f.has = s.has`,
    changes.flatMap((one) => [one.id, ...valuesOf(one)]),
  )
}

async function seenOf(trx: Db, ids: readonly number[]): Promise<Map<number, SeenRow[]>> {
  // Answered from an index alone, which a join or an order would not be.
  const rows: {
    id: number
    finding_id: number
    condition: Condition
    source_id: number
    content_state: ContentState
  }[] = await trx('sightings')
    .whereIn('finding_id', [...ids])
    .select('id', 'finding_id', 'condition', 'source_id', 'content_state')
  rows.sort((a, b) => a.id - b.id)
  const groups = new Map<number, SeenRow[]>()
  for (const row of rows) {
    const id = Number(row.finding_id)
    const one = {
      id: Number(row.id),
      sourceId: Number(row.source_id),
      condition: row.condition,
      content: row.content_state,
    }
    const group = groups.get(id)
    if (group) group.push(one)
    else groups.set(id, [one])
  }
  return groups
}

interface Shown {
  title: string
  text: string | null
  fields: { [key: string]: Json }
}

async function shownOf(trx: Db, ids: number[]): Promise<Map<number, Shown>> {
  if (ids.length === 0) return new Map()
  const rows = await trx('sightings').whereIn('id', ids).select('id', 'title', 'text', 'fields')
  return new Map(rows.map(({ id, title, text, fields }) => [Number(id), { title, text, fields: parsed(fields) }]))
}

async function soughtIn(trx: Db, jobId: JobId): Promise<Sought> {
  const job = await findJob(trx, jobId)
  if (!job) throw new Error(`job ${jobId} is gone`)
  return soughtOf(job.brief, job.timeZone)
}

const CHUNK = 1000

/**
 * Works out all findings of a category again, without reading any source: after another source was read for it, what
 * that one does not show is gone from it, and windows of loss became narrower. What it does show was worked out as it
 * was stored, and is left alone where `read` names that source.
 */
export async function restandCategory(db: Db, jobId: JobId, category: CategoryId, read?: SourceId): Promise<void> {
  for (let after = 0; ; ) {
    const findings = db('findings').where({ job_id: jobId, category }).where('id', '>', after)
    if (read !== undefined)
      findings.whereNotExists(
        db('sightings')
          .where('sightings.finding_id', db.ref('findings.id'))
          .where({ source_id: read })
          .whereIn('condition', ['live', 'binned']),
      )
    const rows = await findings.orderBy('id').limit(CHUNK).select('id')
    const ids = rows.map((row) => Number(row.id))
    await restand(db, jobId, category, ids)
    if (ids.length < CHUNK) return
    after = ids.at(-1) as number
  }
}

/** The same for a whole job: its brief or its sources changed. */
export async function restandAll(db: Db, jobId: JobId): Promise<void> {
  const categories: { category: CategoryId }[] = await db('findings').where({ job_id: jobId }).distinct('category')
  for (const { category } of categories) await restandCategory(db, jobId, category)
}
