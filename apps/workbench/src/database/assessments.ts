import { storeNameOf } from '@lumbrin/core/categories/account'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Json } from '@lumbrin/core/categories/types'
import { matchOf, type Sought } from '@lumbrin/core/findings/match'
import { type Claim, claimOf } from '@lumbrin/core/findings/standing'
import type { SeenAs } from '@lumbrin/core/findings/states'
import { soughtOf } from '../domain/brief.js'
import type { JobId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { findJob } from './jobs.js'
import type { WORD_COLUMNS } from './sighting-rows.js'
import { categoryStates, type JobStates } from './states.js'
import type { SightingsTable } from './tables.js'

/** What is the same for all findings of a category, and that their assessments follow from. */
export interface Grounds extends JobStates {
  category: CategoryId
  sought: Sought
  /** Items of the category tell by their fields which store would hold them. */
  severalStores: boolean
}

export async function groundsOf(trx: Db, jobId: JobId, category: CategoryId): Promise<Grounds> {
  const job = await findJob(trx, jobId)
  if (!job) throw new Error(`job ${jobId} is gone`)
  const { states, brief } = await categoryStates(trx, jobId, category)
  const severalStores = states.some(({ silent }) => [...silent].some((name) => name !== ''))
  return { category, states, brief, severalStores, sought: soughtOf(job.brief, job.timeZone) }
}

export interface Seen extends SeenAs {
  id: number
}

/** What a sighting shows, and what its finding takes over from the best one. */
export interface Shown extends Pick<SightingsTable, (typeof WORD_COLUMNS)[number]> {
  fields: { [key: string]: Json }
}

/** Sightings by their ids. */
export type ShownById = ReadonlyMap<number, Shown>

/** What is claimed of a finding, and how well it meets the brief. */
export interface Assessment {
  claim: Claim<Seen>
  seen: number
  score: number
  binnedAt: Date | null
}

/** @param shown has the first sighting, if the category has several stores */
export function claimIn(
  { states, brief, category, severalStores }: Grounds,
  seen: readonly Seen[],
  shown: ShownById,
): Claim<Seen> {
  const fields = severalStores ? showing(shown, (seen[0] as Seen).id).fields : {}
  return claimOf(seen, states, brief, storeNameOf({ category, fields }))
}

/** The sightings that an assessment needs beside the claim. */
export const idsToShow = ({ best, binned }: Claim<Seen>): number[] => (binned ? [best.id, binned.id] : [best.id])

/** @param shown has what `idsToShow` names */
export function assess(
  { category, sought }: Grounds,
  claim: Claim<Seen>,
  seen: readonly Seen[],
  shown: ShownById,
): Assessment {
  const { title, text, fields } = showing(shown, claim.best.id)
  const { standing } = claim
  const binnedAt = binnedAtOf(claim, shown)
  // What is in the bin of the account went on the day on which it was put there.
  const binned = standing === 'elsewhere' && binnedAt ? { from: binnedAt.getTime(), to: binnedAt.getTime() } : undefined
  const { score } = matchOf(sought, { category, standing, title, text, fields, window: claim.window ?? binned })
  return { claim, seen: seen.length, score, binnedAt }
}

function binnedAtOf({ binned }: Claim<Seen>, shown: ShownById): Date | null {
  const at = binned && showing(shown, binned.id).fields.binnedAt
  return typeof at === 'string' && !Number.isNaN(Date.parse(at)) ? new Date(at) : null
}

function showing(shown: ShownById, id: number): Shown {
  const one = shown.get(id)
  if (!one) throw new Error(`sighting ${id} was not loaded`)
  return one
}

/** The columns of a finding that say what is claimed of it. */
export const CLAIM_COLUMNS = [
  'standing',
  'best_sighting_id',
  'sighting_count',
  'match_score',
  'binned_at',
  'lost_after',
  'lost_before',
] as const

export const claimColumnsOf = ({ claim, seen, score, binnedAt }: Assessment) => ({
  standing: claim.standing,
  best_sighting_id: claim.best.id,
  sighting_count: seen,
  match_score: score,
  binned_at: binnedAt,
  lost_after: dated(claim.window?.from),
  lost_before: dated(claim.window?.to),
})

const dated = (at: number | null | undefined): Date | null => (at == null ? null : new Date(at))
