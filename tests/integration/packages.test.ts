import { appendFileSync, existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findHandover } from '../../apps/workbench/src/database/handovers.js'
import { findJob } from '../../apps/workbench/src/database/jobs.js'
import { addToTray, removeCategory } from '../../apps/workbench/src/database/tray.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { HandoverId, JobId } from '../../apps/workbench/src/domain/ids.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { checkHandover, startHandover } from '../../apps/workbench/src/services/handovers.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, tool } from '../setup/fixtures.js'
import { type Workbench, workbenchWith, workbenchWithTray } from './workbench.js'

// docs/truth.md, rules 18 and 19.

const { folder } = demoBackup(inject('demoFolder'))
const legacy = demoBackup(inject('demoFolder'), 'legacy').folder

/** Hands the tray of a job over into a folder, to the end. */
async function handOver(bench: Workbench, jobId: JobId, to: string) {
  const id = await startHandover(bench.db, jobId, { kind: 'folder', folder: to })
  expect(await claimWork(bench.db, 'handovers', 'test:1')).toBe(id)
  await runHandover(bench.db, id, new AbortController().signal)
  return findHandover(bench.db, id)
}

/** A second job, of somebody else, with something in its tray. */
async function anotherJob(bench: Workbench): Promise<JobId> {
  const job = await openJob(bench.db, briefSchema.parse({ owner: 'Bram Okafor' }))
  const source = await addSource(bench.db, job.id, legacy)
  const read = await startRead(bench.db, source, { categories: ['contacts'], passes: ['live'] })
  await claimWork(bench.db, 'reads', 'test:1')
  await runRead(bench.db, read, new AbortController().signal)
  const ids = await bench.db('findings').where({ job_id: job.id }).limit(3).pluck('id')
  await addToTray(bench.db, job.id, ids.map(Number))
  return job.id
}

const everything = (to: string) =>
  readdirSync(to, { recursive: true, encoding: 'utf8' })
    .filter((name) => statSync(join(to, name)).isFile())
    .sort()

/** What sha256sum says of a package whose files are all as listed: nothing. */
const verified = (to: string) =>
  tool('sh', '-c', `cd '${to}' && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt`)

describe('a package', () => {
  it('is bound to its job, and never takes in the tray of another', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
    const to = join(bench.root, 'package')
    expect(await handOver(bench, bench.jobId, to)).toMatchObject({ state: 'done' })
    const { uid, number } = (await findJob(bench.db, bench.jobId)) ?? {}
    expect(readFileSync(join(to, 'bag-info.txt'), 'utf8')).toContain(`Bag-Group-Identifier: ${uid}\n`)
    const before = everything(to).map((name) => [name, readFileSync(join(to, name), 'base64')])
    expect(await handOver(bench, await anotherJob(bench), to)).toMatchObject({
      state: 'failed',
      error: expect.stringContaining(`belongs to job ${number}`),
    })
    expect(everything(to).map((name) => [name, readFileSync(join(to, name), 'base64')])).toEqual(before)
    expect(verified(to)).toBe('')
  })

  it('grows by what is new, with one report and one index of all of it', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
    const to = join(bench.root, 'package')
    await removeCategory(bench.db, bench.jobId, 'messages')
    await addToTray(bench.db, bench.jobId, bench.ids.slice(0, 40))
    await handOver(bench, bench.jobId, to)
    await addToTray(bench.db, bench.jobId, bench.ids.slice(40, 60))
    expect(await handOver(bench, bench.jobId, to)).toMatchObject({ state: 'done', summary: { items: 20, missed: 0 } })
    expect(readFileSync(join(to, 'data/index.jsonl'), 'utf8').trim().split('\n')).toHaveLength(60)
    expect(everything(to).filter((name) => /^data\/(report|index|provenance)/.test(name))).toEqual([
      'data/index.csv',
      'data/index.jsonl',
      'data/index.xlsx',
      'data/provenance.html',
      'data/report.html',
      'data/report.pdf',
    ])
    expect(verified(to)).toBe('')
  })

  it.each<[string, (to: string) => void, object]>([
    [
      'of which a page was changed',
      (to) => appendFileSync(join(to, 'data/report.html'), ' '),
      { altered: ['data/report.html'] },
    ],
    [
      'into which something was put',
      (to) => writeFileSync(join(to, 'data/more.txt'), 'more'),
      { unlisted: ['data/more.txt'] },
    ],
  ])('%s is not added to, and says what differs', async (_, change, differs) => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
    const to = join(bench.root, 'package')
    await removeCategory(bench.db, bench.jobId, 'messages')
    await addToTray(bench.db, bench.jobId, bench.ids.slice(0, 10))
    const first = await handOver(bench, bench.jobId, to)
    change(to)
    expect(await checkHandover(bench.db, first?.id as HandoverId)).toMatchObject(differs)
    const before = everything(to)
    await addToTray(bench.db, bench.jobId, bench.ids)
    expect(await handOver(bench, bench.jobId, to)).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('Nothing was written'),
    })
    expect(everything(to)).toEqual(before)
  })

  it('counts as handed over only what is in it, and names the rest', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    const to = join(bench.root, 'package')
    const done = await handOver(bench, bench.jobId, to)
    const { items = 0, missed = 0, problems = [] } = done?.summary ?? {}
    expect(missed).toBeGreaterThan(0)
    expect(items + missed).toBe(bench.ids.length)
    expect(problems.length).toBeGreaterThanOrEqual(missed)
    const lines = readFileSync(join(to, 'data/index.jsonl'), 'utf8').trim().split('\n')
    const files = lines.flatMap((line) => JSON.parse(line).files ?? [])
    for (const file of files) expect(existsSync(join(to, 'data', file)) || existsSync(join(to, file)), file).toBe(true)
    expect(readFileSync(join(to, 'data/report.html'), 'utf8')).toContain(`${missed} items, not counted above`)
  })

  it('tells its owner nothing of where the shop keeps things', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'messages')
    const to = join(bench.root, 'package')
    await handOver(bench, bench.jobId, to)
    for (const name of everything(to).filter((one) => /\.(html|csv|jsonl|txt)$/.test(one)))
      if (!name.endsWith('provenance.html'))
        expect(readFileSync(join(to, name), 'utf8').includes(folder), `${name} names the folder of the source`).toBe(
          false,
        )
  })
})

describe('two installations', () => {
  it('never give the same number to a job, nor propose the same folder for it', async () => {
    const numbers = new Set<string>()
    const uids = new Set<string>()
    for (let installation = 0; installation < 3; installation++) {
      const bench = await workbenchWith(inject('databaseUrl'), folder)
      await openJob(bench.db, briefSchema.parse({ owner: 'Odile Varga' }))
      const jobs: { number: string; uid: string }[] = await bench.db('jobs').orderBy('id').select('number', 'uid')
      expect(jobs.map(({ number }) => number.slice(0, 9))).toEqual([
        `${new Date().getUTCFullYear()}-0001`,
        `${new Date().getUTCFullYear()}-0002`,
      ])
      // The mark is the installation's, not the job's.
      expect(new Set(jobs.map(({ number }) => number.slice(10))).size).toBe(1)
      for (const { number, uid } of jobs) {
        numbers.add(number)
        uids.add(uid)
      }
    }
    expect(numbers.size).toBe(6)
    expect(uids.size).toBe(6)
  })
})
