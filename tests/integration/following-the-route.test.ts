import { join } from 'node:path'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { MATCHES_FROM } from '@lumbrin/core/findings/match'
import type { RouteStep, StepAction } from '@lumbrin/core/findings/route-facts'
import { DEMO_ACCOUNT } from '@lumbrin/standins/cloud/demo'
import { DEMO_PASSWORD } from '@lumbrin/standins/demo/build'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { jobDevices } from '../../apps/workbench/src/database/states.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { SourceId } from '../../apps/workbench/src/domain/ids.js'
import { addSnapshot, confirmCloud, signInToCloud, signOutOfCloud } from '../../apps/workbench/src/services/cloud.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { beginUnlock, lockState } from '../../apps/workbench/src/services/keyring.js'
import { knownPlaces } from '../../apps/workbench/src/services/known-places.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { jobRoute, sayStepDone } from '../../apps/workbench/src/services/route.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { startCloud } from '../setup/cloud.js'
import { demoBackup } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

// docs/truth.md, rules 14 to 16.

const { folder } = demoBackup(inject('demoFolder'))
const BRIEF = {
  owner: 'Odile Varga',
  device: 'Odile’s phone',
  categories: ['photos', 'messages'] as const,
  lostFrom: '2026-10-25',
  lostTo: '2026-11-10',
}

/** A computer on which the demo's backups lie, and a job that has no source yet. */
async function emptyJob(more: object = {}): Promise<Workbench> {
  process.env.LUMBRIN_DEMO_SOURCES = join(inject('demoFolder'), 'Backup')
  onTestFinished(() => void delete process.env.LUMBRIN_DEMO_SOURCES)
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const { id } = await openJob(bench.db, briefSchema.parse({ ...BRIEF, ...more }))
  return { ...bench, jobId: id }
}

async function readAll(db: Db, source: SourceId, categories: CategoryId[]) {
  const id = await startRead(db, source, { categories, passes: ['live', 'residue'] })
  expect(await claimWork(db, 'reads', 'test:1')).toBe(id)
  await runRead(db, id, new AbortController().signal)
  return findRead(db, id)
}

/** Does what a click on a step does; false: it is done by hand, or only shows something. */
async function take({ db, jobId }: Workbench, action: StepAction): Promise<boolean> {
  switch (action.kind) {
    case 'add-backup':
      await addSource(db, jobId, action.path)
      return true
    case 'unlock':
      await beginUnlock(db, asId(action.sourceId), DEMO_PASSWORD)
      await expect.poll(() => lockState(asId(action.sourceId)).state, { timeout: 60_000 }).toBe('open')
      await readAll(db, asId(action.sourceId), [...BRIEF.categories])
      return true
    case 'read':
      await readAll(db, asId(action.sourceId), [...BRIEF.categories])
      return true
    default:
      return false
  }
}

/** The number that a step speaks of. */
const numberIn = ({ do: words }: RouteStep) => (/\bone\b/.test(words) ? 1 : Number(/\d+/.exec(words)?.[0]))

describe('the route of a job without sources', () => {
  it('leads from the backups on this computer to what was lost, and takes no step twice', async () => {
    const bench = await emptyJob()
    expect((await jobRoute(bench.db, bench.jobId)).answer).toMatchObject({ answer: 'not-found-so-far' })
    const taken: string[] = []
    for (let i = 0; i < 20; i++) {
      const { steps, answer } = await jobRoute(bench.db, bench.jobId)
      expect(answer.answer).not.toBe('not-found')
      const open = steps.filter(({ action }) => ['add-backup', 'unlock', 'read'].includes(action.kind))
      const next = open[0]
      if (!next) break
      const name = JSON.stringify(next.action)
      expect(taken, 'no step comes again').not.toContain(name)
      taken.push(name)
      expect(await take(bench, next.action)).toBe(true)
    }
    // The first backups to be added are those of nobody in particular; a read follows each.
    expect(taken.some((one) => one.includes('add-backup'))).toBe(true)
    expect(taken.some((one) => one.includes('unlock'))).toBe(true)
    const { steps, answer, matching } = await jobRoute(bench.db, bench.jobId)
    expect(answer.answer).toBe('found')
    expect(matching.earlier + matching.binned).toBeGreaterThan(0)
    expect(steps[0]?.action.kind, 'what was found comes first').toBe('open')
    expect(steps.some(({ action }) => ['read', 'unlock', 'retry'].includes(action.kind))).toBe(false)
  })

  it('says of what is found as many as its links show', async () => {
    const bench = await emptyJob()
    const source = await addSource(bench.db, bench.jobId, folder)
    await readAll(bench.db, source, [...BRIEF.categories])
    const { steps } = await jobRoute(bench.db, bench.jobId)
    const shown = steps.filter(({ action }) => action.kind === 'open')
    expect(shown.length).toBeGreaterThan(0)
    for (const step of shown) {
      const { standings } = step.action as Extract<StepAction, { kind: 'open' }>
      const [row] = await bench
        .db('findings')
        .where({ job_id: bench.jobId })
        .where('match_score', '>=', MATCHES_FROM)
        .whereIn('standing', [...standings])
        .count({ count: '*' })
      expect(numberIn(step), step.do).toBe(Number(row?.count))
    }
  })

  it('leaves out a step that was done by hand, until that is taken back', async () => {
    const bench = await emptyJob()
    const rules = async () => (await jobRoute(bench.db, bench.jobId)).steps.map(({ rule }) => rule)
    expect(await rules()).toContain('preserve')
    await sayStepDone(bench.db, bench.jobId, 'preserve', true)
    expect(await rules()).not.toContain('preserve')
    await sayStepDone(bench.db, bench.jobId, 'preserve', false)
    expect(await rules()).toContain('preserve')
  })
})

describe('places that are known', () => {
  it('are backups that lie here and are not in the job, each with whether it is of a device of the job', async () => {
    const bench = await emptyJob()
    const places = async () =>
      (await knownPlaces(bench.db, bench.jobId, await jobDevices(bench.db, bench.jobId), BRIEF.categories)).backups
    expect((await places()).map(({ ofJobDevice }) => ofJobDevice)).toEqual([false, false, false])
    await addSource(bench.db, bench.jobId, folder)
    const left = await places()
    expect(left.map(({ path }) => path)).not.toContain(folder)
    const ofPhone = left.filter(({ ofJobDevice }) => ofJobDevice)
    expect(ofPhone).toMatchObject([{ encrypted: true }])
    // The ten-year-old phone is another device.
    expect(left.filter(({ ofJobDevice }) => !ofJobDevice)).toHaveLength(1)
  })

  it('are none that cannot hold what is sought', async () => {
    const bench = await emptyJob({ categories: ['calls'] })
    const { backups } = await knownPlaces(bench.db, bench.jobId, await jobDevices(bench.db, bench.jobId), ['calls'])
    expect(backups.map(({ path }) => path)).not.toContain(folder)
    expect(backups.length).toBeGreaterThan(0)
  })

  it('are cloud backups of the account that is signed in, which keep an answer open until they are added', async () => {
    const bench = await emptyJob({ words: 'nothing of the kind' })
    const service = await startCloud(inject('demoFolder'))
    process.env.LUMBRIN_CLOUD = service.address
    onTestFinished(async () => {
      await signOutOfCloud(bench.db, bench.jobId)
      delete process.env.LUMBRIN_CLOUD
    })
    const steps = async () =>
      (await jobRoute(bench.db, bench.jobId)).steps.filter(({ rule }) => rule === 'known-snapshot')
    const gaps = async () =>
      (await jobRoute(bench.db, bench.jobId)).answer.gaps.filter(({ words }) => words.includes('cloud backup'))
    await addSource(bench.db, bench.jobId, folder)
    expect(await steps(), 'nobody is signed in').toEqual([])
    expect(await gaps()).toEqual([])
    await signInToCloud(bench.jobId, DEMO_ACCOUNT.name, DEMO_ACCOUNT.password)
    await confirmCloud(bench.db, bench.jobId, DEMO_ACCOUNT.code ?? '')
    expect(await steps()).toMatchObject([{ action: { kind: 'add-snapshot', id: 'snapshot-1' } }])
    expect(await gaps()).toMatchObject([{ kind: 'not-added' }])
    await addSnapshot(bench.db, bench.jobId, 'snapshot-1')
    expect(await steps()).toEqual([])
    expect(await gaps(), 'it is added, and not read').toEqual([])
  })
})
