import { MATCHES_FROM } from '@lumbrin/core/findings/match'
import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findJob } from '../../apps/workbench/src/database/jobs.js'
import { pageOfFindings } from '../../apps/workbench/src/database/pages.js'
import { allOf, listConversations } from '../../apps/workbench/src/database/queries.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { lostWith } from '../../apps/workbench/src/domain/findings-query.js'
import type { ReadId } from '../../apps/workbench/src/domain/ids.js'
import type { Job } from '../../apps/workbench/src/domain/job.js'
import { jobAnswer, openingView } from '../../apps/workbench/src/services/answer.js'
import { changeBrief, jobQueue } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { resumeRead, startRead } from '../../apps/workbench/src/services/sources.js'
import { changeTray } from '../../apps/workbench/src/services/tray.js'
import { demoBackup } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))

/** A job whose source was read, with such a brief. */
async function readWith(brief: object): Promise<Workbench> {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  await changeBrief(bench.db, bench.jobId, briefSchema.parse({ owner: 'Odile Varga', ...brief }))
  await startRead(bench.db, bench.sourceId, { categories: ['messages', 'photos'], passes: ['live', 'residue'] })
  const id = await claimWork(bench.db, 'reads', 'test:1')
  await runRead(bench.db, id as ReadId, new AbortController().signal)
  return bench
}

const matching = ({ db, jobId }: Workbench, standings: readonly string[]) =>
  db('findings')
    .where({ job_id: jobId })
    .where('match_score', '>=', MATCHES_FROM)
    .whereIn('standing', [...standings])

describe('the answer of a job', () => {
  it('counts what matches and is gone, shows the strongest, and puts all of it into the tray', async () => {
    const bench = await readWith({ categories: ['messages', 'photos'], people: 'Bram Okafor' })
    const { db, jobId } = bench
    const { matches, route } = await jobAnswer(db, jobId)
    const expected = await matching(bench, LOST_STANDINGS).pluck('id')
    expect(matches.reduce((sum, { count }) => sum + count, 0)).toBe(expected.length)
    expect(expected.length).toBeGreaterThan(0)
    expect(matches[0]?.category).toBe('messages')
    const scores = matches[0]?.best.map(({ matchScore }) => matchScore) ?? []
    expect(scores).toEqual([...scores].sort((a, b) => b - a))
    expect(route.answer.answer).toMatch(/^found/)
    await changeTray(db, jobId, { addMatches: 'gone' })
    const chosen = await pageOfFindings(db, jobId, { ...allOf('messages'), inTray: true }, null)
    expect(chosen.every(({ inTray }) => inTray)).toBe(true)
    expect((await jobAnswer(db, jobId)).matches.every(({ count, inTray }) => count === inTray)).toBe(true)
    expect((await jobQueue(db)).find(({ id }) => id === jobId)).toMatchObject({
      stage: 'to-hand-over',
      tray: expected.length,
    })
  })

  it('says what a state from before the end of the loss shows still, and nothing of one from after it', async () => {
    const words = { categories: ['messages'], words: 'puppet', lostFrom: '2026-10-05' }
    const before = await readWith({ ...words, lostTo: '2026-12-24' })
    const { before: shown } = await jobAnswer(before.db, before.jobId)
    expect(shown).toMatchObject({ source: 'Odile’s phone', day: '2026-11-14' })
    const kept = await matching(before, ['kept']).pluck('id')
    expect(shown?.matches.reduce((sum, { count }) => sum + count, 0)).toBe(kept.length)
    const after = await readWith({ ...words, lostTo: '2026-11-01' })
    expect((await jobAnswer(after.db, after.jobId)).before).toBeNull()
  })

  it('opens Findings on what is sought and gone; without a brief, on what was read', async () => {
    const asked = await readWith({ categories: ['messages'], people: 'Bram Okafor' })
    const jobOf = async ({ db, jobId }: Workbench) => (await findJob(db, jobId)) as Job
    expect(await openingView(asked.db, await jobOf(asked))).toEqual({
      category: 'messages',
      standings: [...LOST_STANDINGS],
      matching: true,
    })
    const unread = await workbenchWith(inject('databaseUrl'), folder)
    expect(await openingView(unread.db, await jobOf(unread))).toEqual({})
  })
})

describe('messages whose conversation is lost', () => {
  it('stand under those they were with, and add up to all of them', async () => {
    const { db, jobId } = await readWith({})
    const lines = await listConversations(db, jobId, allOf('messages'))
    const lost = lines.filter(({ key }) => lostWith(key) !== undefined)
    const without = await db('findings').where({ job_id: jobId, category: 'messages', conversation: '' })
    expect(lost.reduce((sum, { total }) => sum + total, 0)).toBe(without.length)
    for (const line of lost) {
      const page = await pageOfFindings(db, jobId, { ...allOf('messages'), conversation: line.key }, null)
      expect(page.length).toBe(Math.min(200, line.total))
      expect(page.every(({ title, conversation }) => title === line.title && conversation === '')).toBe(true)
    }
  })
})

describe('a read that is to stop when enough is there', () => {
  it('stops by itself, says why, and goes on to the end when it is asked to', async () => {
    const { db, jobId, sourceId } = await workbenchWith(inject('databaseUrl'), folder)
    await changeBrief(db, jobId, briefSchema.parse({ owner: 'Odile Varga', categories: ['messages'] }))
    const id = await startRead(db, sourceId, { categories: ['messages'], passes: ['live', 'residue'], enough: 5 })
    const run = async () => {
      await claimWork(db, 'reads', 'test:1')
      await runRead(db, id, new AbortController().signal)
      return findRead(db, id)
    }
    expect(await run()).toMatchObject({ state: 'stopped', enough: 5 })
    const [last] = await db('log').where({ job_id: jobId, action: 'Read stopped' }).orderBy('id', 'desc')
    expect(last?.detail).toMatch(/matches are there: enough/)
    await resumeRead(db, id)
    expect((await run())?.state).toMatch(/done|gaps/)
  })
})
