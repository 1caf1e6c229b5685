import type { Db } from './connection.js'
import { asJson, parsed } from './json.js'

/** Keeps when a device last trusted this computer. */
export async function rememberTrust(db: Db, udid: string, at: Date): Promise<void> {
  await db('bay_devices').insert({ udid, trusted_at: at }).onConflict('udid').merge()
}

/** When devices last trusted this computer. */
export async function trustedAt(db: Db, udids: readonly string[]): Promise<Map<string, Date>> {
  const rows = await db('bay_devices').whereIn('udid', [...udids])
  return new Map(rows.map((row) => [row.udid, row.trusted_at]))
}

/** Items that went back to a device at once. */
export interface ReturnRow {
  id: number
  udid: string
  deviceName: string
  kind: string
  ids: number[]
  titles: string[]
  at: Date
  undoneAt: Date | null
}

export async function insertReturn(
  db: Db,
  jobId: number,
  { ids, titles, ...row }: Omit<ReturnRow, 'id' | 'undoneAt'>,
): Promise<number> {
  const [id] = await db('returns').insert({
    job_id: jobId,
    udid: row.udid,
    device_name: row.deviceName,
    kind: row.kind,
    returned_at: row.at,
    ids: asJson(ids),
    titles: asJson(titles),
  })
  return id as number
}

export async function listReturns(db: Db, jobId: number): Promise<ReturnRow[]> {
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
export async function markUndone(db: Db, id: number): Promise<boolean> {
  return (await db('returns').where({ id }).whereNull('undone_at').update({ undone_at: new Date() })) === 1
}
