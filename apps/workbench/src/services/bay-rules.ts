import { CATEGORY_IDS, type CategoryId, PICTURE_CATEGORIES, USUAL_CATEGORIES } from '@lumbrin/core/categories/registry'
import { type DeviceDescription, describeDevice } from '@lumbrin/core/device/describe'
import { DeviceError } from '@lumbrin/core/device/errors'
import { type Attached, Multiplexer } from '@lumbrin/core/device/multiplexer'
import { deviceKeyOf } from '@lumbrin/core/findings/devices'
import { messageOf } from '@lumbrin/core/io/errors'
import { actingFor } from '../database/acting.js'
import { type BayOutcome, insertBayEvent, markGone, presentEvent, updateBayEvent } from '../database/bay-events.js'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { changeSetting, loadSetting } from '../database/jobs.js'
import { listAllSources } from '../database/sources.js'
import { jobDevices } from '../database/states.js'
import { type BayPlan, type BayRules, bayRules, isOn, NO_RULES } from '../domain/bay-rules.js'
import { brief as briefSchema } from '../domain/brief.js'
import { DEVICE_STATES } from '../domain/device-states.js'
import { AppError } from '../domain/errors.js'
import type { JobId, ReadId, SourceId } from '../domain/ids.js'
import type { Source } from '../domain/source.js'
import { bayNow } from './bay.js'
import { openJob, requireJob } from './jobs.js'
import { addDevice, startRead } from './sources.js'
import { versionOf } from './versions.js'

const NAME = 'bay-rules'
const PATIENCE_MS = 4000
/** Who does it, in the logs of jobs. */
const OPERATOR = 'a rule of the bay'

const mux = () => new Multiplexer(undefined, PATIENCE_MS)

const rulesIn = (value: unknown): BayRules => {
  const saved = bayRules.safeParse(value)
  return saved.success ? saved.data : NO_RULES
}

/** The rules, with their version. */
export async function versionedRules(db: Db): Promise<{ rules: BayRules; version: string }> {
  const rules = rulesIn(await loadSetting(db, NAME))
  return { rules, version: versionOf(rules) }
}

/**
 * Saves rules. What is on the cables already is left alone: a rule begins with what is plugged in next.
 * @throws AppError where somebody else has saved others since `version`
 */
export async function changeRules(db: Db, rules: BayRules, version: string): Promise<void> {
  const before = rulesIn(await loadSetting(db, NAME))
  if (!isOn(before) && isOn(rules)) await noteThere(db)
  if (!(await changeSetting(db, NAME, rules, (there) => versionOf(rulesIn(there)) === version)))
    throw new AppError('conflict', 'Somebody else saved rules since you opened this page. Nothing was changed.')
}

async function noteThere(db: Db): Promise<void> {
  const attached = await mux()
    .devices()
    .catch(() => [])
  await markGone(
    db,
    attached.map(({ udid }) => udid),
  )
  for (const { udid } of attached)
    if (!(await presentEvent(db, udid))) await insertBayEvent(db, { udid, name: null, act: 'there', said: '' })
}

/** What rules would do with each device that is on a cable now, as if it had just come. Nothing is done. */
export async function tryRules(db: Db, rules: BayRules): Promise<BayPlan[]> {
  const plans: BayPlan[] = []
  for (const device of (await bayNow(db)).devices) plans.push(await planFor(db, device, rules))
  return plans
}

/** What rules do with a device. */
async function planFor(
  db: Db,
  { udid, name, state }: Pick<DeviceDescription, 'udid' | 'name' | 'state'>,
  rules: BayRules,
): Promise<BayPlan> {
  const known = await jobWith(db, udid)
  const job = known && { id: known.jobId, number: known.jobNumber }
  const plan = (act: BayPlan['act'], words: string): BayPlan => ({ udid, name, act, job: job ?? null, words })
  const act = job ? rules.known : rules.unknown
  if (act === 'nothing')
    return plan('nothing', job ? `It stays for you; job ${job.number} has it.` : 'It stays for you.')
  if (state !== 'ready') return plan('waits', `${DEVICE_STATES[state].label}: it is dealt with once it can be read.`)
  if (job) return plan('read', `It is read in job ${job.number}.`)
  return act === 'open-job'
    ? plan('open-job', 'A job is opened for it.')
    : plan('open-and-read', 'A job is opened for it, and it is read there.')
}

/** The newest job that has a device among its own. */
async function jobWith(
  db: Db,
  udid: string,
): Promise<{ jobId: JobId; jobNumber: string; source: Source | undefined } | undefined> {
  const key = deviceKeyOf(udid)
  const all = (await listAllSources(db)).filter(({ info }) => info.uniqueId && deviceKeyOf(info.uniqueId) === key)
  for (const { jobId, jobNumber } of all.reverse()) {
    // Somebody else's device in a job is not what the job is about.
    const role = (await jobDevices(db, jobId)).devices.find((device) => device.key === key)?.role
    if (role === 'other') continue
    const source = all.find((one) => one.jobId === jobId && one.info.kind === 'device')
    return { jobId, jobNumber, source }
  }
  return undefined
}

/** Looks at what is on the cables, and does what the rules say with what came since. Called again and again. */
export async function followBay(db: Db): Promise<void> {
  const rules = rulesIn(await loadSetting(db, NAME))
  if (!isOn(rules)) return
  const attached = await mux()
    .devices()
    .catch(() => undefined)
  // Where the multiplexer does not answer, nothing is known of any cable.
  if (!attached) return
  await markGone(
    db,
    attached.map(({ udid }) => udid),
  )
  for (const device of attached) await follow(db, device, rules)
}

async function follow(db: Db, device: Attached, rules: BayRules): Promise<void> {
  const { udid } = device
  const event = await presentEvent(db, udid)
  if (event && event.act !== 'waits') return
  const described = await describeDevice(mux(), device).catch((thrown: unknown) => {
    if (thrown instanceof DeviceError) return undefined
    throw thrown
  })
  if (!described) return
  const { name } = described
  const plan = await planFor(db, described, rules)
  if (plan.act === 'waits' && event) return
  // What is begun is noted first: a crash amid it must not do it twice.
  const act = plan.act === 'waits' || plan.act === 'nothing' ? plan.act : ('begun' as const)
  const id = event?.id ?? (await insertBayEvent(db, { udid, name, act, said: plan.words }))
  if (event) await updateBayEvent(db, id, { act, said: plan.words })
  if (act === 'begun')
    await updateBayEvent(db, id, await actingFor(OPERATOR, () => carryOut(db, described, plan, rules)))
}

async function carryOut(db: Db, device: DeviceDescription, plan: BayPlan, rules: BayRules): Promise<BayOutcome> {
  let jobId = plan.job?.id
  try {
    jobId ??= await openJobFor(db, device)
    const { number } = await requireJob(db, jobId)
    if (plan.act === 'open-job') {
      await addDevice(db, jobId, device.udid)
      return { act: 'open-job', said: `Job ${number} was opened for it.`, jobId }
    }
    const readId = await read(db, jobId, device.udid, rules)
    return { act: 'read', said: `It is read in job ${number}.`, jobId, readId }
  } catch (thrown) {
    if (isConnectionLoss(thrown)) throw thrown
    return { act: 'failed', said: messageOf(thrown), ...(jobId ? { jobId } : {}) }
  }
}

/** A brief needs a name; what the owner is called the device does not say. */
async function openJobFor(db: Db, { name, udid }: DeviceDescription): Promise<JobId> {
  const device = name ?? udid
  return (
    await openJob(db, briefSchema.parse({ owner: `Owner of ${device}`.slice(0, 200), device: device.slice(0, 200) }))
  ).id
}

async function read(db: Db, jobId: JobId, udid: string, { preset }: BayRules): Promise<ReadId> {
  const sourceId: SourceId = (await jobWith(db, udid))?.source?.id ?? (await addDevice(db, jobId, udid))
  const { categories } = (await requireJob(db, jobId)).brief
  return startRead(db, sourceId, { categories: PRESETS[preset](categories) })
}

const FILMS: readonly CategoryId[] = ['videos', 'app-videos']

/** What a preset reads; `wanted`: what the brief seeks. */
const PRESETS: Record<BayRules['preset'], (wanted: readonly CategoryId[]) => readonly CategoryId[]> = {
  brief: (wanted) => wanted,
  usual: () => USUAL_CATEGORIES,
  pictures: () => CATEGORY_IDS.filter((id) => PICTURE_CATEGORIES.includes(id) || FILMS.includes(id)),
}
