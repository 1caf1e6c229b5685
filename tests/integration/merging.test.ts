import type { Condition, Sighting } from '@lumbrin/core/categories/types'
import { describe, expect, inject, it } from 'vitest'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import type { FindingId, JobId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { restoreCost } from '../../apps/workbench/src/services/differences.js'
import { joinFindings, splitSighting } from '../../apps/workbench/src/services/joining.js'
import { demoBackup } from '../setup/fixtures.js'
import { insertMadeSource, readMade } from '../setup/made-source.js'
import { workbenchWith } from './workbench.js'

/** A message as a source shows it; without an id where a leftover lost it. */
function message(id: string | null, condition: Condition, text: string, minute = 0): Sighting {
  return {
    category: 'messages',
    condition,
    when: new Date(Date.UTC(2026, 5, 1, 12, minute)).toISOString(),
    title: 'Bram Okafor',
    text,
    fields: { guid: id, direction: 'in', conversation: 'c' },
    content: null,
    origin: { domain: 'd', path: 'p', table: 'message', rowid: null, place: 'live', page: null, offset: minute },
    missing: [],
    confidence: 1,
  }
}

// Five states of one device, oldest first, and what each shows: written by hand, with what must come of it.
const DATES = ['2026-01-01', '2026-03-01', '2026-06-02', '2026-08-01', '2026-11-01']
const SHOWN: Sighting[][] = [
  [message('old', 'live', 'only in the oldest', 1), message('steady', 'live', 'always there', 2)],
  [message('steady', 'live', 'always there', 2), message('lost', 'live', 'went between March and June', 3)],
  [message('steady', 'live', 'always there', 2), message(null, 'rebuilt', 'went between March and June', 3)],
  [
    message('steady', 'live', 'always there', 2),
    message('twin-b', 'live', 'yes', 4),
    message('twin-a', 'live', 'yes', 4),
    message('binned', 'live', 'now in the bin', 5),
  ],
  [
    message('steady', 'live', 'always there', 2),
    message('binned', 'binned', 'now in the bin', 5),
    message(null, 'rebuilt', 'yes', 4),
    message(null, 'rebuilt', 'nowhere else', 6),
    message(null, 'partial', 'part of one', 7),
    message('new', 'live', 'came last', 8),
  ],
]
const EXPECTED = [
  ['only in the oldest', 'earlier', 1],
  ['always there', 'kept', 5],
  ['went between March and June', 'earlier', 2],
  // The leftover that lost its id goes to the first of the two that it is like; the other stays as it was.
  ['yes', 'earlier', 1],
  ['yes', 'earlier', 2],
  ['now in the bin', 'binned', 2],
  ['nowhere else', 'rebuilt', 1],
  ['part of one', 'partial', 1],
  ['came last', 'kept', 1],
]

async function readInOrder(order: number[]) {
  const bench = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
  await bench.db('sources').delete()
  const ids = new Map<number, SourceId>()
  for (const at of order) ids.set(at, await readOne(bench.db, bench.jobId, at))
  return { ...bench, ids }
}

async function readOne(db: Db, jobId: JobId, at: number): Promise<SourceId> {
  const source = await insertMadeSource(db, jobId, `/made/${at}`, new Date(DATES[at] as string))
  await readMade(db, source, { category: 'messages', pass: 'live' }, SHOWN[at] as Sighting[])
  return source.id
}

async function outcome(db: Db) {
  const rows = await db('findings').orderBy(['happened_at', 'sighting_count'])
  return rows.map((row) => [row.text, row.standing, row.sighting_count])
}

const ORDERS = [
  [0, 1, 2, 3, 4],
  [4, 3, 2, 1, 0],
  [2, 4, 0, 3, 1],
  [3, 0, 4, 1, 2],
]

describe('merging', () => {
  it.each(ORDERS)('gives one outcome in whatever order sources are read (%i %i %i %i %i)', async (...order) => {
    const { db } = await readInOrder(order)
    expect(await outcome(db)).toEqual(EXPECTED)
    const identities = (await db('findings').orderBy('identity').select('identity', 'standing')).map(
      (row) => `${row.identity} ${row.standing}`,
    )
    expect(new Set(identities).size).toBe(EXPECTED.length)
  })

  it('tells what two sources differ in, and what a restore would cost', async () => {
    const { db, jobId, ids } = await readInOrder([0, 1, 2, 3, 4])
    const [line] = (await restoreCost(db, jobId, ids.get(3) as SourceId, ids.get(4) as SourceId)).lines
    // A restore of the fourth onto the state of the fifth: the twins and what is in the bin come back, what came last is wiped.
    expect(line).toMatchObject({ category: 'messages', onlyFirst: 3, onlySecond: 1, both: 1, changed: 0 })
    // What one of them was not read for cannot be compared.
    await db('read_steps').where({ category: 'messages' }).limit(1).update({ category: 'notes' })
    const oldest = ids.get(0) as SourceId
    const { lines, notCompared } = await restoreCost(db, jobId, oldest, ids.get(4) as SourceId)
    expect(lines).toEqual([])
    expect(notCompared.map(({ category }) => category)).toContain('messages')
    expect(line?.examplesFirst.map(({ text }) => text)).toEqual(['now in the bin', 'yes', 'yes'])
    expect(line?.examplesSecond.map(({ text }) => text)).toEqual(['came last'])
  })

  it('can be taken apart and put together by hand, also against sources that come later', async () => {
    const { db, jobId } = await readInOrder([0, 1])
    const steady = await db('findings').where({ text: 'always there' }).first()
    const [first] = await db('sightings')
      .where({ finding_id: asId<FindingId>(steady?.id) })
      .orderBy('id')
    const apart = await splitSighting(db, asId(first?.id))
    expect((await outcome(db)).filter(([text]) => text === 'always there').length).toBe(2)
    const old = await db('findings').where({ text: 'only in the oldest' }).first()
    await joinFindings(db, asId<FindingId>(steady?.id), apart)
    await joinFindings(db, asId<FindingId>(steady?.id), asId(old?.id))
    expect((await outcome(db)).length).toBe(2)
    await readOne(db, jobId, 4)
    const joined = await db('findings')
      .where({ id: asId<FindingId>(steady?.id) })
      .first()
    expect([joined?.sighting_count, joined?.standing]).toEqual([4, 'kept'])
    expect((await db('log').where({ job_id: jobId }).select('action')).map((row) => row.action)).toEqual(
      expect.arrayContaining(['Sighting split off', 'Findings joined']),
    )
  })

  it('keeps what was joined by hand, also when the item comes that a sighting is like', async () => {
    const { db, jobId } = await readInOrder([2])
    const [steady, leftover] = await db('findings').orderBy('happened_at')
    await joinFindings(db, asId<FindingId>(steady?.id), asId(leftover?.id))
    // The second source shows the item itself, under its own id.
    await readOne(db, jobId, 1)
    expect(await outcome(db)).toEqual([
      ['always there', 'kept', 3],
      ['went between March and June', 'earlier', 1],
    ])
  })
})
