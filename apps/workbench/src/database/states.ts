import type { CategoryId } from '@lumbrin/core/categories/registry'
import { type StepAccount, silentStores } from '@lumbrin/core/categories/step-account'
import { type DevicesSaid, devicesOf, type JobDevice, NOTHING_SAID } from '@lumbrin/core/findings/devices'
import type { CategoryState } from '@lumbrin/core/findings/states'
import type { JobId } from '../domain/ids.js'
import { sourceName } from '../domain/labels.js'
import type { Source } from '../domain/source.js'
import type { Db } from './connection.js'
import { asJson, parsed } from './json.js'
import { listSources } from './sources.js'

/** What the technician said of a job beside its brief. */
export interface JobSaid extends DevicesSaid {
  /** Rules of the route whose steps were called done. */
  done: readonly string[]
}

export async function loadSaid(db: Db, jobId: JobId): Promise<JobSaid> {
  return saidOf(await db('jobs').where({ id: jobId }).first('said'))
}

const saidOf = (row: { said: unknown } | undefined): JobSaid => ({
  ...NOTHING_SAID,
  done: [],
  ...(row?.said ? parsed<Partial<JobSaid>>(row.said) : {}),
})

export async function saveSaid(db: Db, jobId: JobId, change: Partial<JobSaid>): Promise<void> {
  const said = { ...(await loadSaid(db, jobId)), ...change }
  await db('jobs')
    .where({ id: jobId })
    .update({ said: asJson(said) })
}

/** The devices of a job with the sources of each. */
export interface JobDevices {
  devices: JobDevice[]
  /** Device of each source, by the source's id. */
  keys: Map<number, string>
  /** Key of the device of the brief; null: the job has none yet. */
  brief: string | null
  sources: Source[]
}

export async function jobDevices(db: Db, jobId: JobId): Promise<JobDevices> {
  const [sources, job] = await Promise.all([
    listSources(db, jobId),
    db('jobs').where({ id: jobId }).first('said', 'brief'),
  ])
  const said = saidOf(job)
  const { device = '' } = job ? parsed<{ device?: string }>(job.brief) : {}
  const named = sources.map((source) => ({
    id: source.id,
    kind: source.info.kind,
    uniqueId: source.info.uniqueId,
    serialNumber: source.info.serialNumber ?? null,
    said: source.saidDevice,
    name: source.info.deviceName ?? sourceName(source.info),
    productType: source.info.productType,
    takenAt: source.takenAt?.getTime() ?? null,
  }))
  const { devices, keys } = devicesOf(named, said, device)
  return { devices, keys, brief: devices.find(({ role }) => role === 'brief')?.key ?? null, sources }
}

/** The states of a job for a category, each with its date and with the stores whose silence counts. */
export interface JobStates {
  states: CategoryState[]
  brief: string | null
}

const NONE: ReadonlySet<string> = new Set()

interface StepRow {
  source_id: number
  category: CategoryId
  taken_at: Date | null
  account: unknown
}

/** @see docs/truth.md, rules 1 to 6 */
export async function categoryStates(trx: Db, jobId: JobId, category: CategoryId): Promise<JobStates> {
  const devices = await jobDevices(trx, jobId)
  const rows = await liveSteps(trx, jobId).where('read_steps.category', category)
  return { states: statesOf(devices, rows), brief: devices.brief }
}

/** The same for every category that was read. */
export async function allStates(db: Db, jobId: JobId): Promise<Map<CategoryId, CategoryState[]>> {
  const devices = await jobDevices(db, jobId)
  const rows: StepRow[] = await liveSteps(db, jobId)
  const categories = [...new Set(rows.map((row) => row.category))]
  return new Map(
    categories.map((id) => [
      id,
      statesOf(
        devices,
        rows.filter((row) => row.category === id),
      ),
    ]),
  )
}

const liveSteps = (db: Db, jobId: JobId) =>
  db('read_steps')
    .join('reads', 'reads.id', 'read_steps.read_id')
    .where('reads.job_id', jobId)
    .where('pass', 'live')
    .orderBy('read_steps.id')
    .select('reads.source_id', 'read_steps.category', 'read_steps.taken_at', 'read_steps.account')

function statesOf({ keys, sources }: JobDevices, rows: readonly StepRow[]): CategoryState[] {
  return sources.map(({ id, info, takenAt }) => {
    const mine = rows.filter((row) => row.source_id === id)
    // A later one tried again what an earlier one could not read.
    const ended = mine.filter((row) => row.account !== null).at(-1)
    const dated = mine.find((row) => row.taken_at !== null)?.taken_at ?? takenAt
    const speaks = info.complete && info.kind !== 'cloud-library' && info.kind !== 'image'
    return {
      sourceId: id,
      device: keys.get(id) as string,
      at: dated?.getTime() ?? null,
      silent: ended && speaks ? silentStores(parsed<StepAccount>(ended.account)) : NONE,
    }
  })
}
