import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { connect } from '../apps/workbench/src/database/connection.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { Doors, type Fault, FILE_FAULTS, LINE_FAULTS } from '../tests/faults/doors.js'
import { faultSources } from '../tests/faults/sources.js'
import { WholeJob } from '../tests/faults/whole-job.js'

const TELL_EVERY = 100

/**
 * `npm run bench -- faults [HOW-MANY [FAULT…]]`: whole jobs, in each of which one call to files or to the database fails,
 * spread evenly over all calls of a job. A job waits more than it works: several may run at once, each with other faults.
 */
export async function benchFaults([many = '2000', ...only]: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-faults-'))
  process.env.LUMBRIN_DATA = join(folder, 'data')
  const server = await startDatabase(join(folder, 'database'), 'lumbrin_bench', { lasting: false })
  process.env.LUMBRIN_DATABASE_URL = server.url
  const db = connect(server.url)
  const doors = new Doors()
  await doors.install()
  doors.guard(db)
  try {
    await migrate(db)
    mkdirSync(join(folder, 'sources'))
    const sources = await faultSources(join(folder, 'sources'))
    let jobs = 0
    const job = (fault: Fault, n: number) =>
      new WholeJob(db, doors, sources, join(folder, `job-${jobs++}`)).run(fault, n)
    const all = [...FILE_FAULTS, ...LINE_FAULTS]
    const faults = all.filter((fault) => only.length === 0 || only.includes(fault))
    // Fewer calls than others can come short.
    const each = Math.ceil((Number(many) * 1.1) / all.length)
    let injected = 0
    let failed = 0
    for (const fault of faults) {
      const whole = await job(fault, 0)
      const step = Math.max(1, whole.calls / each)
      for (let at = 1; at <= whole.calls; at += step) {
        const n = Math.floor(at)
        const { met, wrong, found, handedOver } = await job(fault, n)
        if (met) injected++
        if (found !== whole.found) wrong.push('what was found is not the same')
        if (handedOver !== whole.handedOver) wrong.push('what was handed over is not the same')
        if (wrong.length > 0) {
          failed++
          console.log(`${fault} at call ${n} (${met}): ${wrong.join('; ')}`)
        }
        if (injected % TELL_EVERY === 0)
          console.log(`${injected} faults, ${failed} not held, ${Math.round(performance.now() / 1000)} s`)
      }
      console.log(`${fault}: ${whole.calls} calls in a job`)
    }
    console.log(`${injected} faults injected into whole jobs, ${failed} not held`)
    if (failed > 0) process.exitCode = 1
  } finally {
    doors.remove()
    await db.destroy()
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
