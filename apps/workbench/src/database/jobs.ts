import { randomBytes, randomUUID } from 'node:crypto'
import type { Knex } from 'knex'
import { type Brief, brief as briefSchema } from '../domain/brief.js'
import type { JobId } from '../domain/ids.js'
import type { Job, JobSummary } from '../domain/job.js'
import { ownTimeZone } from '../domain/own-time-zone.js'
import { type Db, transact } from './connection.js'
import { asId, asJson } from './json.js'
import { beginLog } from './log.js'

type Raw = {
  id: JobId
  number: string
  uid: string
  owner: string
  brief: unknown
  device_time_zone: string | null
  created_at: Date
  purged_at: Date | null
}

function fromRaw(raw: Raw): Job {
  const brief = briefSchema.parse(typeof raw.brief === 'string' ? JSON.parse(raw.brief) : raw.brief)
  return {
    id: raw.id,
    number: raw.number,
    uid: raw.uid,
    owner: raw.owner,
    brief,
    ...zoneOf(brief, raw.device_time_zone),
    createdAt: raw.created_at,
    purgedAt: raw.purged_at,
  }
}

/** A job's time zone: as the brief says, else as a device of the owner's does, else this computer's. */
function zoneOf(brief: Brief, ofDevice: string | null): Pick<Job, 'timeZone' | 'timeZoneOf'> {
  if (brief.timeZone !== null) return { timeZone: brief.timeZone, timeZoneOf: 'brief' }
  if (ofDevice !== null) return { timeZone: ofDevice, timeZoneOf: 'device' }
  return { timeZone: ownTimeZone(), timeZoneOf: 'computer' }
}

/** Says where the clock of a job's device is set to; the first that says so counts. @returns true where it is the first */
export async function sayDeviceTimeZone(db: Db, id: JobId, zone: string): Promise<boolean> {
  return (await db('jobs').where({ id }).whereNull('device_time_zone').update({ device_time_zone: zone })) > 0
}

/** All jobs, newest first, with their counts. */
export async function listJobs(db: Db): Promise<JobSummary[]> {
  const rowsIn = (table: string) => db(table).whereRaw('?? = ??', [`${table}.job_id`, 'jobs.id'])
  const count = (table: string, which: (query: Knex.QueryBuilder) => void = () => {}) =>
    rowsIn(table).modify(which).count('*').as(`${table}_count`)
  const chosen = rowsIn('tray_blocks').select(db.raw('COALESCE(SUM(BIT_COUNT(bits)), 0)')).as('tray_count')
  const rows = await db('jobs')
    .select(
      'jobs.*',
      count('sources', (query) => query.whereNull('removed_at')),
      count('findings'),
      chosen,
    )
    .select(count('reads', (query) => query.whereIn('state', ['queued', 'running', 'stopping'])))
    .select(count('handovers', (query) => query.where('state', 'done')))
    .orderBy('id', 'desc')
  return rows.map((raw) => ({
    ...fromRaw(raw),
    sources: Number(raw.sources_count),
    findings: Number(raw.findings_count),
    reading: Number(raw.reads_count),
    tray: Number(raw.tray_count),
    handovers: Number(raw.handovers_count),
  }))
}

export async function findJob(db: Db, id: JobId): Promise<Job | undefined> {
  const raw = await db('jobs').where({ id }).first()
  return raw && fromRaw(raw)
}

/** True from the moment on when its purge began. */
export async function isPurged(db: Db, id: JobId): Promise<boolean> {
  return (await db('jobs').where({ id }).whereNotNull('purge_began_at').first('id')) !== undefined
}

/**
 * Stores a new job under the next number of its year, such as 2026-0007-K7QX: the letters are the installation's own, so
 * that no two installations give the same number.
 */
export async function insertJob(db: Db, brief: Brief, now: Date): Promise<Job> {
  const mark = await installationMark(db)
  return transact(db, async (trx) => {
    const year = now.getUTCFullYear()
    // One after the other: locks on the numbers themselves would wait for each other in a ring.
    await trx('settings').where({ name: INSTALLATION }).forUpdate().first('name')
    const last = await trx('jobs').where('number', 'like', `${year}-%`).orderBy('number', 'desc').first('number')
    const next = Number(last?.number.slice(5, 9) ?? 0) + 1
    const number = `${year}-${String(next).padStart(4, '0')}-${mark}`
    const uid = randomUUID()
    const [id] = await trx('jobs').insert({
      number,
      uid,
      owner: brief.owner,
      brief: asJson(brief),
      created_at: now,
    })
    await beginLog(trx, asId(id))
    const zone = zoneOf(brief, null)
    return { id: asId(id), number, uid, owner: brief.owner, brief, ...zone, createdAt: now, purgedAt: null }
  })
}

const INSTALLATION = 'installation'

// Letters and digits that are not taken for each other; four of them give a million marks.
const LETTERS = '23456789ABCDEFGHJKLMNPQRSTUVWXYZ'
const MARK_LENGTH = 4

/** What tells this installation's numbers from those of another; made once. */
async function installationMark(db: Db): Promise<string> {
  const load = async () => ((await loadSetting(db, INSTALLATION)) as { mark: string } | undefined)?.mark
  const known = await load()
  if (known !== undefined) return known
  const mark = [...randomBytes(MARK_LENGTH)].map((byte) => LETTERS[byte % LETTERS.length]).join('')
  await db('settings')
    .insert({ name: INSTALLATION, value: asJson({ mark }) })
    .onConflict('name')
    .ignore()
  // Where two jobs were opened at once, the first mark counts.
  return (await load()) ?? mark
}

/**
 * Replaces a job's brief, if `isMeant` says so of the one that is there.
 * @returns false where it does not, and nothing was changed
 */
export async function updateBrief(
  db: Db,
  id: JobId,
  brief: Brief,
  isMeant: (there: Brief) => boolean = () => true,
): Promise<boolean> {
  return transact(db, async (trx) => {
    const raw = await trx('jobs').where({ id }).forUpdate().first()
    if (!raw || !isMeant(fromRaw(raw).brief)) return false
    await trx('jobs')
      .where({ id })
      .update({ owner: brief.owner, brief: asJson(brief) })
    return true
  })
}

/** Says that findings of a job are still to be settled with its brief. */
export async function markUnsettled(db: Db, id: JobId): Promise<void> {
  await db('jobs').where({ id }).increment('unsettled', 1)
}

/** How many changes of a job's brief its findings are still to be settled with; 0: none. */
export async function unsettledChanges(db: Db, id: JobId): Promise<number> {
  return Number((await db('jobs').where({ id }).first('unsettled'))?.unsettled ?? 0)
}

/** Says that they are settled with so many changes, unless another one came since. */
export async function markSettled(db: Db, id: JobId, changes: number): Promise<void> {
  await db('jobs').where({ id, unsettled: changes }).update({ unsettled: 0 })
}

export async function unsettledJobs(db: Db): Promise<JobId[]> {
  return db('jobs').where('unsettled', '>', 0).pluck('id')
}

const MOST_NAMES = 300

/** Names of contacts, and of conversations with one person, most frequent first. */
export async function namesIn(db: Db, jobId: JobId): Promise<string[]> {
  const names = await db('findings')
    .where({ job_id: jobId })
    .whereIn('category', ['contacts', 'messages', 'chats', 'calls'])
    .whereNot('title', '')
    .groupBy('title')
    .orderByRaw('COUNT(*) DESC')
    .limit(MOST_NAMES)
    .pluck('title')
  return names.filter((name: string) => !name.includes(','))
}

/** A setting by its name; undefined where it was never saved. */
export async function loadSetting(db: Db, name: string): Promise<unknown> {
  const row = await db('settings').where({ name }).first('value')
  return settingIn(row)
}

const settingIn = (row: { value: unknown } | undefined): unknown =>
  typeof row?.value === 'string' ? JSON.parse(row.value) : row?.value

/**
 * Replaces a setting, if `isMeant` says so of the one that is there.
 * @returns false where it does not, and nothing was changed
 */
export async function changeSetting(
  db: Db,
  name: string,
  value: unknown,
  isMeant: (there: unknown) => boolean,
): Promise<boolean> {
  return transact(db, async (trx) => {
    const there = settingIn(await trx('settings').where({ name }).forUpdate().first('value'))
    if (!isMeant(there)) return false
    await saveSetting(trx, name, value)
    return true
  })
}

export async function saveSetting(db: Db, name: string, value: unknown): Promise<void> {
  await db('settings')
    .insert({ name, value: asJson(value) })
    .onConflict('name')
    .merge()
}
