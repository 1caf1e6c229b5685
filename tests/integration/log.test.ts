import { describe, expect, inject, it } from 'vitest'
import { actingFor } from '../../apps/workbench/src/database/acting.js'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { appendLog, checkLog, entryHash, listLog, logHead } from '../../apps/workbench/src/database/log.js'
import { purgeJob } from '../../apps/workbench/src/services/purging.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { demoBackup, tool } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const bench = () => workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)

/** As somebody with rights of their own over the database would. */
async function asSuperuser(db: Db, work: () => Promise<unknown>): Promise<void> {
  await db.raw('DROP TRIGGER log_only_grows')
  await db.raw('DROP TRIGGER log_keeps_all')
  await work()
}

describe('the log of a job', () => {
  it('says who did what, and is whole', async () => {
    const { db, jobId } = await bench()
    await actingFor('Zoë Lindqvist', () => appendLog(db, jobId, 'Brief changed', 'words'))
    await appendLog(db, jobId, 'Read done', 'by the application')
    const [last, before] = await listLog(db, jobId)
    expect([last?.operator, before?.operator]).toEqual(['', 'Zoë Lindqvist'])
    const { entries, wrong } = await checkLog(db, jobId)
    expect(wrong).toEqual([])
    expect(entries).toBe((await listLog(db, jobId)).length)
  })

  it('is in the name of who asked for a read, though another process does it', async () => {
    const { db, jobId, startRead } = await bench()
    const id = await actingFor('Zoë Lindqvist', startRead)
    expect(await claimWork(db, 'reads', 'test:1')).toBe(id)
    expect(await db('reads').where({ id }).pluck('operator')).toEqual(['Zoë Lindqvist'])
    await actingFor('Zoë Lindqvist', () => runRead(db, id, new AbortController().signal))
    const ended = (await listLog(db, jobId)).find(({ action }) => action.startsWith('Read done'))
    expect(ended?.operator).toBe('Zoë Lindqvist')
  })

  // The chain is plain SHA-256 over JSON: a general tool computes the same.
  it('is sealed as sha256sum seals it', async () => {
    const entry = { at: new Date('2026-11-30T10:00:00.123Z'), action: 'Job opened', operator: 'Zoë' }
    const text = JSON.stringify(['0'.repeat(64), '2026-11-30T10:00:00.123Z', 'Zoë', 'Job opened', 'd'.repeat(64)])
    const sum = tool('sh', '-c', `printf %s '${text}' | sha256sum`).slice(0, 64)
    expect(entryHash('0'.repeat(64), entry, 'd'.repeat(64))).toBe(sum)
  })

  it('keeps its order when many write at once', async () => {
    const { db, jobId } = await bench()
    await Promise.all(Array.from({ length: 30 }, (_, i) => appendLog(db, jobId, 'Tray changed', `${i}`)))
    expect(await checkLog(db, jobId)).toMatchObject({ wrong: [] })
    expect((await listLog(db, jobId)).filter(({ action }) => action === 'Tray changed')).toHaveLength(30)
  })

  it('is found whole while others write into it', async () => {
    const { db, jobId } = await bench()
    const writing = Promise.all(Array.from({ length: 30 }, (_, i) => appendLog(db, jobId, 'Tray changed', `${i}`)))
    for (let i = 0; i < 20; i++) expect((await checkLog(db, jobId)).wrong).toEqual([])
    await writing
  })

  it('takes entries, and lets none be changed or taken out', async () => {
    const { db, jobId } = await bench()
    await expect(db('log').where({ job_id: jobId }).delete()).rejects.toThrow('refused')
    await expect(db('log').where({ job_id: jobId }).update({ action: 'Nothing' })).rejects.toThrow('refused')
    await expect(db('log').where({ job_id: jobId }).update({ detail: 'something else' })).rejects.toThrow('refused')
    expect((await checkLog(db, jobId)).wrong).toEqual([])
  })

  const meddling: [string, (db: Db, id: number) => Promise<unknown>, string][] = [
    ['details are changed', (db, id) => db('log').where({ id }).update({ detail: 'else' }), 'details of entry'],
    ['what was done is changed', (db, id) => db('log').where({ id }).update({ action: 'Nothing' }), 'was changed'],
    ['who did it is changed', (db, id) => db('log').where({ id }).update({ operator: 'Nobody' }), 'was changed'],
    [
      'when it was is changed',
      (db, id) =>
        db('log')
          .where({ id })
          .update({ at: new Date(0) }),
      'was changed',
    ],
    ['an entry is taken out', (db, id) => db('log').where({ id }).delete(), 'are there'],
  ]

  it.each(meddling)('shows that %s', async (_, change, words) => {
    const { db, jobId } = await bench()
    for (let i = 0; i < 4; i++) await appendLog(db, jobId, 'Tray changed', `${i}`)
    const ids = await db('log').where({ job_id: jobId }).orderBy('id').pluck('id')
    await asSuperuser(db, () => change(db, ids[2] ?? 0))
    const { wrong } = await checkLog(db, jobId)
    expect(wrong.join('\n')).toContain(words)
  })

  it('shows that its last entries were taken out, with all that told of them but the head', async () => {
    const { db, jobId } = await bench()
    await appendLog(db, jobId, 'Handover done', '')
    const [last] = await db('log').where({ job_id: jobId }).orderBy('id', 'desc').pluck('id')
    await asSuperuser(db, () =>
      db('log')
        .where({ id: last ?? 0 })
        .delete(),
    )
    expect((await checkLog(db, jobId)).wrong.join()).toContain('entries were written')
  })

  it('stays whole through a purge, which takes its words away', async () => {
    const { db, jobId } = await bench()
    const before = await logHead(db, jobId)
    const { number } = (await db('jobs').where({ id: jobId }).first('number')) ?? { number: '' }
    await purgeJob(db, jobId, number)
    expect(await checkLog(db, jobId)).toMatchObject({ wrong: [] })
    const [last, ...rest] = await listLog(db, jobId)
    expect(last?.detail).toContain(before.hash)
    expect(rest.every(({ detail }) => detail === '')).toBe(true)
  })
})
