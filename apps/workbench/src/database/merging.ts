import { type CategoryId, definitionOf } from '@lumbrin/core/categories/registry'
import { CATEGORIES } from '@lumbrin/core/categories/table'
import type { Sighting } from '@lumbrin/core/categories/types'
import { digest } from '@lumbrin/core/io/hash'
import type { JobId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { blocksOf, clearBits, findingsInTray, insertBits } from './tray-blocks.js'

/** What a sighting is merged by: its own id, or what it is like. Both as SHA-256. */
export interface Keys {
  strong: string | null
  likeness: string | null
  /** By which it stands where nothing else is like it. */
  identity: string
}

export function keysOf(sighting: Sighting): Keys {
  const category = CATEGORIES[sighting.category]
  const own = category.identity(sighting)
  const like = category.likeness?.(sighting) ?? null
  const identity = digest('sha256', own)
  return {
    strong: own === like ? null : identity,
    likeness: like === null ? null : digest('sha256', like),
    identity,
  }
}

/** Equal for two sightings that say the same of their item. */
export function versionOf({ category, title, text, when, fields, content }: Sighting): string {
  const named = definitionOf(category).titledByContacts ? null : title
  const said = Object.entries(fields).filter(([name]) => !NOT_SAID.has(name))
  return digest('sha256', JSON.stringify([named, text, when, said, content?.bytes ?? null])).slice(0, 16)
}

// They follow from the source, not from the item.
const NOT_SAID = new Set([
  'fileBytes',
  'daysLeft',
  'binnedAt',
  'contentMissing',
  'senderName',
  'name',
  'secretAt',
  'reactions',
])

interface Place {
  jobId: JobId
  category: CategoryId
}

/**
 * The identity under which each sighting of a batch belongs to its finding. One that lost its own id goes to the item
 * that it is like; where several are, to the one whose identity comes first, so that the order of reads plays no part.
 */
export async function identitiesOf(trx: Db, keys: readonly Keys[], place: Place): Promise<string[]> {
  // Only those that lost their own id go by what they are like.
  const likenesses = keys.flatMap(({ strong, likeness }) => (strong === null && likeness !== null ? [likeness] : []))
  const first = await strongByLikeness(trx, [...new Set(likenesses)], place)
  for (const { strong, likeness } of keys) if (strong !== null && likeness !== null) keepFirst(first, likeness, strong)
  const aliases = await aliasesOf(trx, place)
  return keys.map(({ strong, likeness, identity }) => {
    const own = strong ?? (likeness === null ? undefined : first.get(likeness)) ?? identity
    return aliases.get(own) ?? own
  })
}

async function strongByLikeness(
  trx: Db,
  likenesses: string[],
  { jobId, category }: Place,
): Promise<Map<string, string>> {
  if (likenesses.length === 0) return new Map()
  const rows: { likeness: string; strong: string }[] = await trx('sightings')
    .where({ job_id: jobId, category })
    .whereIn('likeness', likenesses)
    .whereNotNull('strong')
    .groupBy('likeness')
    .select('likeness')
    .min({ strong: 'strong' })
  return new Map(rows.map((row) => [row.likeness, row.strong]))
}

function keepFirst(first: Map<string, string>, likeness: string, strong: string): void {
  const known = first.get(likeness)
  if (known === undefined || strong < known) first.set(likeness, strong)
}

async function aliasesOf(trx: Db, { jobId, category }: Place): Promise<Map<string, string>> {
  const rows = await trx('identity_aliases').where({ job_id: jobId, category }).select('identity', 'joined_to')
  return new Map(rows.map((row) => [row.identity, row.joined_to]))
}

/**
 * Sightings that came before the item they are like: they lost their own id, and stood for themselves, or for another
 * item that comes later in order. Gives the findings that changed.
 */
export async function adoptLikeOnes(trx: Db, keys: readonly Keys[], place: Place): Promise<number[]> {
  const likenesses = [
    ...new Set(keys.flatMap((key) => (key.strong !== null && key.likeness !== null ? [key.likeness] : []))),
  ]
  if (likenesses.length === 0) return []
  const { jobId, category } = place
  const orphans = await trx('sightings')
    .join('findings', 'findings.id', 'sightings.finding_id')
    .where('sightings.job_id', jobId)
    .where('sightings.category', category)
    .whereIn('likeness', likenesses)
    .whereNull('strong')
    .select('sightings.id', 'likeness', 'finding_id', 'identity')
  if (orphans.length === 0) return []
  const first = await strongByLikeness(trx, likenesses, place)
  const aliases = await aliasesOf(trx, place)
  const changed = new Set<number>()
  for (const orphan of orphans) {
    const strong = first.get(orphan.likeness)
    const target = strong && (aliases.get(strong) ?? strong)
    if (!target || target === orphan.identity) continue
    const finding = await trx('findings').where({ job_id: jobId, category, identity: target }).first('id')
    if (!finding) continue
    await trx('sightings').where({ id: orphan.id }).update({ finding_id: finding.id })
    await inheritTray(trx, jobId, Number(orphan.finding_id), Number(finding.id))
    changed.add(Number(finding.id))
    changed.add(Number(orphan.finding_id))
  }
  return dropEmpty(trx, [...changed])
}

/** What was chosen of a finding that becomes part of another stays chosen, and what was noted to it stays noted. */
export async function inheritTray(trx: Db, jobId: JobId, from: number, to: number): Promise<void> {
  await trx.raw('UPDATE IGNORE notes SET finding_id = ? WHERE finding_id = ?', [to, from])
  if (await findingsInTray(trx, jobId).where('findings.id', from).first('findings.id'))
    await insertBits(trx, jobId, blocksOf(trx, trx('findings').where('findings.id', to)))
}

/** Removes findings that no sighting is left of; gives the others. */
export async function dropEmpty(trx: Db, ids: readonly number[]): Promise<number[]> {
  if (ids.length === 0) return []
  const kept = new Set(
    (
      await trx('sightings')
        .whereIn('finding_id', [...ids])
        .distinct('finding_id')
    ).map((row) => Number(row.finding_id)),
  )
  const empty = ids.filter((id) => !kept.has(id))
  if (empty.length > 0) {
    const jobs: JobId[] = await trx('findings').whereIn('id', empty).distinct('job_id').pluck('job_id')
    for (const job of jobs) await clearBits(trx, job, blocksOf(trx, trx('findings').whereIn('findings.id', empty)))
    await trx('findings').whereIn('id', empty).delete()
  }
  return [...kept]
}
