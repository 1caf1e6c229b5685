import { describe, expect, inject, it } from 'vitest'
import { markUnsettled, unsettledJobs } from '../../apps/workbench/src/database/jobs.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { changeBrief } from '../../apps/workbench/src/services/jobs.js'
import { settleLeftOver } from '../../apps/workbench/src/services/settling.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWithTray } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))
const brief = (words: string) => briefSchema.parse({ owner: 'Odile Varga', categories: ['messages'], words })

const scores = async (bench: Awaited<ReturnType<typeof workbenchWithTray>>) =>
  (await bench.db('findings').orderBy('id').pluck('match_score')).map(Number)

describe('a changed brief', () => {
  it('is settled with the findings, also when several changes come at once', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
    const before = await scores(bench)
    await changeBrief(bench.db, bench.jobId, brief('curtain'))
    const curtain = await scores(bench)
    expect(curtain).not.toEqual(before)
    await Promise.all(['moon', 'violin', 'curtain'].map((words) => changeBrief(bench.db, bench.jobId, brief(words))))
    await changeBrief(bench.db, bench.jobId, brief('curtain'))
    expect(await scores(bench)).toEqual(curtain)
    expect(await unsettledJobs(bench.db)).toEqual([])
  })

  it('that was left undone by a server that was killed is settled by the next', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
    await changeBrief(bench.db, bench.jobId, brief('curtain'))
    const right = await scores(bench)
    await bench.db('findings').update({ match_score: 1 })
    await markUnsettled(bench.db, bench.jobId)
    await settleLeftOver(bench.db)
    expect(await scores(bench)).toEqual(right)
    expect(await unsettledJobs(bench.db)).toEqual([])
  })
})
