import { readdirSync } from 'node:fs'
import { type AddressInfo, createConnection, createServer, type Socket } from 'node:net'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { connect } from '../../apps/workbench/src/database/connection.js'
import { findHandover, moveHandover } from '../../apps/workbench/src/database/handovers.js'
import type { HandoverState } from '../../apps/workbench/src/domain/handover.js'
import type { HandoverId } from '../../apps/workbench/src/domain/ids.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { startHandover, stopHandover } from '../../apps/workbench/src/services/handovers.js'
import { demoBackup, tool } from '../setup/fixtures.js'
import { startReader, type Workbench, workbenchWithTray } from './workbench.js'

const { folder } = demoBackup(inject('demoFolder'))

async function until(bench: Workbench, id: HandoverId, ...states: HandoverState[]): Promise<HandoverState> {
  for (;;) {
    const state = (await findHandover(bench.db, id))?.state ?? 'failed'
    if (states.includes(state)) return state
    await sleep(25)
  }
}

/** The package is whole: every file as listed, none beside the list, and nothing beside the package. */
function expectWhole(to: string, items: number): void {
  expect(
    tool('sh', '-c', `cd '${to}' && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt`),
  ).toBe('')
  const listed = tool('sh', '-c', `cd '${to}' && cut -c67- manifest-sha256.txt | sort`)
  expect(tool('sh', '-c', `cd '${to}' && find data -type f | LC_ALL=C sort`).split('\n').sort()).toEqual(
    listed.split('\n').sort(),
  )
  expect(Number(tool('sh', '-c', `wc -l < '${to}/data/index.jsonl'`))).toBe(items)
  expect(readdirSync(join(to, '..'))).toEqual(['package'])
}

describe('a handover that is broken off', () => {
  it('is whole in the end, however often the reader is killed', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    const to = join(bench.root, 'package')
    const id = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to })
    let kills = 0
    for (let round = 0; round < 3; round++) {
      const reader = startReader(bench)
      if ((await until(bench, id, 'running', 'done')) === 'done') break
      await sleep(Math.random() * 500)
      await reader.kill()
      kills++
      if ((await findHandover(bench.db, id))?.state === 'running')
        await moveHandover(bench.db, id, ['running'], 'queued')
    }
    expect(kills).toBeGreaterThan(0)
    startReader(bench)
    expect(await until(bench, id, 'done', 'failed')).toBe('done')
    const { summary } = (await findHandover(bench.db, id)) ?? {}
    // Of some pictures only their data is left.
    expect((summary?.items ?? 0) + (summary?.missed ?? 0)).toBe(bench.ids.length)
    expect(summary?.items).toBeGreaterThan(0)
    expectWhole(to, bench.ids.length)
  })

  it('goes on where it was when the database comes back', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    const to = join(bench.root, 'package')
    const id = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to })
    await claimWork(bench.db, 'handovers', 'test:1')
    const line = await cuttable(bench)
    let losses = 0
    for (let tries = 0; tries < 4 && (await findHandover(bench.db, id))?.state !== 'done'; tries++) {
      const timer = setTimeout(line.cut, Math.random() * 300)
      await runHandover(line.db, id, new AbortController().signal).catch(() => losses++)
      clearTimeout(timer)
      line.mend()
    }
    if ((await findHandover(bench.db, id))?.state !== 'done')
      await runHandover(bench.db, id, new AbortController().signal)
    expect(losses).toBeGreaterThan(0)
    expect(await until(bench, id, 'done', 'failed')).toBe('done')
    expectWhole(to, bench.ids.length)
  })

  it('leaves nothing behind when it is stopped', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    const to = join(bench.root, 'package')
    const waiting = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to })
    await stopHandover(bench.db, waiting)
    expect(await until(bench, waiting, 'stopped')).toBe('stopped')
    const id = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: to })
    await claimWork(bench.db, 'handovers', 'test:1')
    await stopHandover(bench.db, id)
    const slow = holdBack(bench)
    await runHandover(bench.db, id, new AbortController().signal)
    slow()
    expect(await until(bench, id, 'stopped')).toBe('stopped')
    expect(readdirSync(bench.root)).toEqual([])
    await expect(stopHandover(bench.db, id)).rejects.toMatchObject({ code: 'conflict' })
  })
})

describe('the process that writes a package', () => {
  it('is started again once when it dies, and told as failed when it dies again', async () => {
    const bench = await workbenchWithTray(inject('databaseUrl'), folder, 'photos')
    startReader(bench)
    const once = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: join(bench.root, 'package') })
    await killWriter(bench, once)
    expect(await until(bench, once, 'done', 'failed')).toBe('done')
    expectWhole(join(bench.root, 'package'), bench.ids.length)

    const twice = await startHandover(bench.db, bench.jobId, { kind: 'folder', folder: join(bench.root, 'other') })
    const first = await killWriter(bench, twice)
    expect(await killWriter(bench, twice)).not.toBe(first)
    expect(await until(bench, twice, 'done', 'failed')).toBe('failed')
    expect((await findHandover(bench.db, twice))?.error).toMatch(/^The process .* ended by itself \(SIGKILL\)/)
  })
})

/** Kills whoever has claimed a handover. @returns its worker's name, which ends with the process */
async function killWriter({ db }: Workbench, id: HandoverId): Promise<string> {
  for (;;) {
    const row = await db('handovers').where({ id, state: 'running' }).first('claimed_by')
    const pid = Number(row?.claimed_by?.split(':').at(-1))
    if (row?.claimed_by) {
      process.kill(pid, 'SIGKILL')
      while ((await db('handovers').where({ id }).first('claimed_by'))?.claimed_by === row.claimed_by) await sleep(20)
      return row.claimed_by
    }
    await sleep(5)
  }
}

/** The workbench's database through a line that can be cut. */
async function cuttable(bench: Workbench) {
  const url = new URL(bench.url)
  const target = { host: url.hostname, port: Number(url.port || 3306) }
  const sockets = new Set<Socket>()
  let isCut = false
  const server = createServer((socket) => {
    if (isCut) return void socket.destroy()
    const inner = createConnection(target)
    for (const one of [socket, inner]) {
      sockets.add(one)
      one
        .on('error', () => {})
        .on('close', () => {
          socket.destroy()
          inner.destroy()
          sockets.delete(one)
        })
    }
    socket.pipe(inner).pipe(socket)
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  url.hostname = '127.0.0.1'
  url.port = String((server.address() as AddressInfo).port)
  const db = connect(url.href)
  onTestFinished(async () => {
    await db.destroy()
    server.close()
  })
  return {
    db,
    cut: () => {
      isCut = true
      for (const socket of sockets) socket.destroy()
    },
    mend: () => {
      isCut = false
    },
  }
}

/** Makes the tray's items wait until somebody asked how the handover stands. */
function holdBack(bench: Workbench): () => void {
  const wait = (response: unknown, query: { sql?: string }) => {
    if (!query.sql?.includes('source_path')) return
    const until = Date.now() + 1500
    while (Date.now() < until);
    return response
  }
  bench.db.on('query-response', wait)
  return () => void bench.db.off('query-response', wait)
}
