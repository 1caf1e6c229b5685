import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { connect, type Db } from '../apps/workbench/src/database/connection.js'
import { findHandover } from '../apps/workbench/src/database/handovers.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { brief as briefSchema } from '../apps/workbench/src/domain/brief.js'
import type { HandoverId } from '../apps/workbench/src/domain/ids.js'
import { startHandover } from '../apps/workbench/src/services/handovers.js'
import { openJob } from '../apps/workbench/src/services/jobs.js'
import { changeTray } from '../apps/workbench/src/services/tray.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { fill } from './made-findings.js'

const MEGA = 1e6
const LOOK_MS = 200

/**
 * Time and peak memory of writing a package with pages, as in real use: findings from the database, written by the process
 * that the background reader starts. `npm run bench -- package [FINDINGS]`, after `npm run build`.
 */
export async function benchPackage([total = '500000']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-package-'))
  const database = await startDatabase(join(folder, 'database'), 'lumbrin_bench')
  Object.assign(process.env, {
    LUMBRIN_DATABASE_URL: database.url,
    LUMBRIN_DATA: folder,
    LUMBRIN_ROOTS: folder,
    LUMBRIN_SITE: 'apps/workbench/dist/site',
  })
  const db = connect(database.url)
  const reader = spawn(process.execPath, ['apps/workbench/dist/reader.mjs'], { stdio: 'inherit' })
  try {
    await migrate(db)
    const job = await openJob(db, briefSchema.parse({ owner: 'Bench' }))
    await fill(db, job.id, Number(total))
    await changeTray(db, job.id, { addMatching: 'category=messages' })
    const started = performance.now()
    const id = await startHandover(db, job.id, { kind: 'folder', folder: join(folder, 'package') })
    const memory = await memoryUntilDone(db, id)
    const { summary } = (await findHandover(db, id)) ?? {}
    console.log(
      `${summary?.items} findings, ${Math.round((summary?.bytes ?? 0) / MEGA)} MB: ${((performance.now() - started) / 1000).toFixed(1)} s, memory of the process that wrote them ${Math.round(memory / MEGA)} MB at most`,
    )
  } finally {
    reader.kill()
    await db.destroy()
    await database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Waits for the end of a handover. @returns the peak memory of the process that wrote it, in bytes. @throws if it fails */
async function memoryUntilDone(db: Db, id: HandoverId): Promise<number> {
  let most = 0
  for (;;) {
    const row = await db('handovers').where({ id }).first('state', 'claimed_by', 'error')
    if (row?.state === 'done') return most
    if (row?.state === 'failed') throw new Error(row.error ?? 'failed')
    most = Math.max(most, memoryOf(row?.claimed_by?.split(':').at(-1)))
    await sleep(LOOK_MS)
  }
}

/** The peak resident memory of a process in bytes (`VmHWM` in proc(5)); 0 once it has ended. */
function memoryOf(pid: string | undefined): number {
  try {
    return Number(/^VmHWM:\s*(\d+) kB$/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) * 1024
  } catch {
    return 0
  }
}
