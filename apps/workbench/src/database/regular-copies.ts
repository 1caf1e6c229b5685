import type { RegularCopy, RegularCopyAsked } from '../domain/copies.js'
import type { CopyPlaceId, RegularCopyId } from '../domain/ids.js'
import { dueFrom } from '../domain/regular-copies.js'
import { actingNow } from './acting.js'
import type { Db } from './connection.js'
import { asId } from './json.js'
import type { CopyTasksTable } from './tables.js'

/** A regular copy, with who wants it. */
export type KnownRegularCopy = RegularCopy & { operator: string }

export async function listRegularCopies(db: Db): Promise<KnownRegularCopy[]> {
  const rows = await db('regular_copies').orderBy('id')
  const tasks = await db('copy_tasks')
    .whereNotNull('regular_id')
    .orderBy('id')
    .select('regular_id', 'state', 'error', 'ended_at')
  return rows.map((row) => {
    const own = tasks.filter((task) => task.regular_id === row.id)
    const lastAt = own.findLast(({ state }) => state === 'done')?.ended_at ?? null
    const ended = endOf(own.at(-1))
    return {
      ...{ id: row.id, place: row.place_id, udid: row.udid, deviceName: row.device_name, part: row.part },
      ...{ everyDays: row.every_days, operator: row.operator, lastAt },
      dueAt: dueFrom({ createdAt: row.created_at, everyDays: row.every_days, lastAt, ended }),
      failed: ended?.state === 'failed' ? (own.at(-1)?.error ?? null) : null,
      atWork: own.some(({ state }) => state === 'queued' || state === 'running' || state === 'stopping'),
    }
  })
}

const endOf = (task: Pick<CopyTasksTable, 'state' | 'ended_at'> | undefined) =>
  task?.ended_at && (task.state === 'failed' || task.state === 'stopped')
    ? { state: task.state, at: task.ended_at }
    : null

/** Adds one; undefined: this device is copied into this place already. */
export async function insertRegularCopy(
  db: Db,
  place: CopyPlaceId,
  { udid, part, everyDays }: RegularCopyAsked,
  deviceName: string | null,
): Promise<RegularCopyId | undefined> {
  if (await db('regular_copies').where({ place_id: place, udid }).first('id')) return undefined
  const [id] = await db('regular_copies').insert({
    ...{ place_id: place, udid, part, every_days: everyDays, device_name: deviceName },
    ...{ operator: actingNow(), created_at: new Date() },
  })
  return asId<RegularCopyId>(id)
}

/** False: there is none. */
export const deleteRegularCopy = async (db: Db, id: RegularCopyId): Promise<boolean> =>
  (await db('regular_copies').where({ id }).delete()) > 0
