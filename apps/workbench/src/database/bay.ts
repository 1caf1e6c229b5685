import type { ReturnEntry } from '../domain/bay.js'
import type { JobId, ReturnId } from '../domain/ids.js'
import type { Db } from './connection.js'
import { asId, asJson, parsed } from './json.js'

/** Keeps when a device last trusted this computer. */
export async function rememberTrust(db: Db, udid: string, at: Date): Promise<void> {
  await db('bay_devices').insert({ udid, trusted_at: at }).onConflict('udid').merge()
}

/** When devices last trusted this computer. */
export async function trustedAt(db: Db, udids: readonly string[]): Promise<Map<string, Date>> {
  const rows = await db('bay_devices').whereIn('udid', [...udids])
  return new Map(rows.map((row) => [row.udid, row.trusted_at]))
}

export async function insertReturn(
  db: Db,
  jobId: JobId,
  { ids, titles, ...row }: Omit<ReturnEntry, 'id' | 'undoneAt'>,
): Promise<ReturnId> {
  const [id] = await db('returns').insert({
    job_id: jobId,
    udid: row.udid,
    device_name: row.deviceName,
    kind: row.kind,
    returned_at: row.at,
    ids: asJson(ids),
    titles: asJson(titles),
  })
  return asId<ReturnId>(id)
}

export async function listReturns(db: Db, jobId: JobId): Promise<ReturnEntry[]> {
  const rows = await db('returns').where({ job_id: jobId }).orderBy('id', 'desc')
  return rows.map((row) => ({
    id: row.id,
    udid: row.udid,
    deviceName: row.device_name,
    kind: row.kind,
    ids: parsed(row.ids),
    titles: parsed(row.titles),
    at: row.returned_at,
    undoneAt: row.undone_at,
  }))
}

/** Marks a return as taken back; false: it was before. */
export async function markUndone(db: Db, id: ReturnId): Promise<boolean> {
  return (await db('returns').where({ id }).whereNull('undone_at').update({ undone_at: new Date() })) === 1
}
