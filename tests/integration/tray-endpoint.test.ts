import type { APIContext } from 'astro'
import { expect, inject, it, onTestFinished } from 'vitest'
import { database } from '../../apps/workbench/src/database/connection.js'
import { findingsInTray } from '../../apps/workbench/src/database/tray-blocks.js'
import { POST } from '../../apps/workbench/src/pages/api/jobs/[job]/tray.js'
import { demoBackup } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

// One database for all: the endpoint's own pool is opened once in a process.
it('the endpoint of the tray makes one change at a time, and none of what it does not understand', async () => {
  const bench = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
  onTestFinished(() => database().destroy())
  const rows = Array.from({ length: 70 }, (_, i) => ({
    job_id: bench.jobId,
    category: i % 2 ? ('calls' as const) : ('notes' as const),
    standing: 'kept' as const,
    identity: `${i}`,
    title: `Finding ${i}`,
  }))
  await bench.db('findings').insert(rows)
  const ids: number[] = (await bench.db('findings').orderBy('id').pluck('id')).map(Number)
  const chosen = async () =>
    (await findingsInTray(bench.db, bench.jobId).orderBy('findings.id').pluck('findings.id')).map(Number)
  const send = async (body: string, job = String(bench.jobId)) => {
    const request = new Request('http://127.0.0.1/', { method: 'POST', body })
    const response = await POST({ params: { job }, request } as unknown as APIContext)
    return { status: response.status, answer: await response.json() }
  }
  const change = async (body: object) => (await send(JSON.stringify(body))).answer

  const first = await change({ add: ids.slice(0, 3) })
  expect(first.count).toBe(3)
  expect((await change({ add: ids.slice(0, 5) })).count).toBe(2)
  expect((await change({ addMatching: 'category=calls' })).count).toBe(33)
  expect((await change({ removeMatching: 'category=notes&words=2' })).count).toBe(1)
  const taken = await change({ removeCategory: 'calls' })
  expect(taken.count).toBe(35)
  expect(await chosen()).toEqual([ids[0], ids[4]])
  expect(await change({ undo: taken.step })).toBe(null)
  expect(await change({ undo: first.step })).toBe(null)
  const left = [...ids.filter((_, i) => i % 2 === 1 && i !== 1), ids[4] as number].sort((a, b) => a - b)
  expect(await chosen()).toEqual(left)

  const refused: string[] = [
    'no JSON',
    '[]',
    '{}',
    JSON.stringify({ add: [1], remove: [2] }),
    JSON.stringify({ add: [-1] }),
    JSON.stringify({ add: ['1'] }),
    JSON.stringify({ add: Array(10_001).fill(1) }),
    JSON.stringify({ removeCategory: 'no such category' }),
    JSON.stringify({ addMatching: 'x'.repeat(2001) }),
    JSON.stringify({ undo: "' OR 1=1" }),
  ]
  for (const body of refused) {
    const { status, answer } = await send(body)
    expect({ body: body.slice(0, 60), status }).toEqual({ body: body.slice(0, 60), status: 400 })
    expect(answer.error).toMatchObject({ code: 'invalid', message: expect.any(String) })
  }
  for (const job of ['0', '999999', '1 OR 1', '../1']) expect((await send('{"add":[]}', job)).status).toBe(404)
  expect(await chosen()).toEqual(left)
})
