import { join } from 'node:path'
import { openSource } from '@lumbrin/core/collected/open'
import { makeCopy } from '@lumbrin/core/copies/make'
import { expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))

async function readOf(bench: Workbench, sourceId: Workbench['sourceId']) {
  const id = await startRead(bench.db, sourceId, { categories: ['photos', 'messages'] })
  await claimWork(bench.db, 'reads', 'test:1')
  await runRead(bench.db, id, new AbortController().signal)
  const seen = await bench.db('sightings').where({ source_id: sourceId }).select('title', 'text', 'condition', 'pass')
  return { state: (await findRead(bench.db, id))?.state, seen: seen.map((row) => JSON.stringify(row)).sort() }
}

it('a safe copy in a job gives what its backup gives, and is the same state of the same device', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), folder)
  const tree = await openSource(folder, () => {})
  const { copy } = await makeCopy(tree, join(scratchFolder(), 'place'), { report: () => {} })
  await tree.close()
  const backup = await readOf(bench, bench.sourceId)
  const copied = await readOf(bench, await addSource(bench.db, bench.jobId, copy.folder))
  expect(copied).toEqual(backup)
  expect(copied.state).toBe('done')
  expect(copied.seen.length).toBeGreaterThan(100)
  // Nothing is found twice, and nothing is said to be gone.
  const [{ count }] = (await bench.db('findings').count({ count: '*' })) as [{ count: number }]
  const alone = await bench.db('sightings').where({ source_id: bench.sourceId }).countDistinct({ count: 'finding_id' })
  expect(count).toBe(alone[0]?.count)
})
