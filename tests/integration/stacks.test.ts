import { expect, inject, it } from 'vitest'
import { printsOf } from '../../apps/workbench/src/database/fingerprints.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import type { FindingId, SightingId } from '../../apps/workbench/src/domain/ids.js'
import { stacksOf } from '../../apps/workbench/src/services/copies.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWithTray } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))

it('pictures that are the same or look the same lie in one stack, and no others', async () => {
  const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
  const sightings: { id: SightingId; finding_id: FindingId }[] = await bench
    .db('sightings')
    .where({ job_id: bench.jobId, category: 'photos' })
    .whereNotNull('content')
    .orderBy('id')
    .limit(6)
    .select('id', 'finding_id')
  const [a, b, c, d, e, f] = sightings.map((one) => asId<FindingId>(one.finding_id)) as [
    FindingId,
    FindingId,
    FindingId,
    FindingId,
    FindingId,
    FindingId,
  ]
  const look = (grey: number) => Buffer.alloc(16 * 16 * 3, grey)
  const coarse = (bits: bigint) => {
    const bytes = Buffer.alloc(8)
    bytes.writeBigUInt64BE(bits)
    return bytes
  }
  // a and b: the same bytes. b and c: near each other. d: near them in a few bits only by which it is looked for. e, f: alone.
  const prints = [
    { sha256: '1'.repeat(64), coarse: coarse(0xff00n), fine: look(100) },
    { sha256: '1'.repeat(64), coarse: coarse(0xff00n), fine: look(100) },
    { sha256: '2'.repeat(64), coarse: coarse(0xff01n), fine: look(100) },
    { sha256: '3'.repeat(64), coarse: coarse(0xff03n), fine: Buffer.from(look(100).map((_, i) => (i % 2) * 200)) },
    { sha256: '4'.repeat(64), coarse: coarse(0xffffffff0000n), fine: look(100) },
    { sha256: '5'.repeat(64), coarse: null, fine: null },
  ]
  await bench.db('fingerprints').where({ job_id: bench.jobId }).delete()
  for (const [i, print] of prints.entries())
    await bench
      .db('fingerprints')
      .insert({ ...print, sighting_id: asId<SightingId>(sightings[i]?.id), job_id: bench.jobId, width: 10, height: 10 })
  expect((await printsOf(bench.db, bench.jobId)).length).toBe(6)
  const stacks = new Map(await stacksOf(bench.db, bench.jobId))
  expect([...stacks.keys()].sort((x, y) => x - y)).toEqual([a, b, c].sort((x, y) => x - y))
  expect(new Set(stacks.values())).toEqual(new Set([Math.min(a, b, c)]))
  for (const alone of [d, e, f]) expect(stacks.has(alone)).toBe(false)
})
