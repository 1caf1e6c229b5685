import { cpSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildDemo } from '@lumbrin/standins/demo/build'
import { Random } from '@lumbrin/standins/random'
import { connect } from '../apps/workbench/src/database/connection.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { spoil } from '../tests/faults/mutated.js'
import { SpoiltJob } from '../tests/faults/spoilt-job.js'

const SLOW_MS = 120_000

/**
 * `npm run bench -- mutants [FILES] [FIRST SEED]`: backups of which every file was spoilt, some by traps, go the whole way:
 * read, looked at, handed over, purged. After `npm run build`.
 */
export async function benchMutants([files = '20000', first = '1']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-mutants-'))
  process.env.LUMBRIN_DATA = join(folder, 'data')
  process.env.LUMBRIN_ROOTS = folder
  process.env.LUMBRIN_MEDIA_PROGRAM = join(process.cwd(), 'apps/workbench/dist/media.mjs')
  const server = await startDatabase(join(folder, 'database'), 'lumbrin_bench', { lasting: false })
  process.env.LUMBRIN_DATABASE_URL = server.url
  const db = connect(server.url)
  try {
    await migrate(db)
    const demo = join(folder, 'demo')
    const truth = await buildDemo(demo, { messages: 400, lostMessages: 80, pictures: 60, items: 40, rounds: 1000 })
    const backup = join(demo, 'Backup', truth.plain.folder)
    let spoilt = 0
    let failed = 0
    let slowest = { seed: 0, ms: 0 }
    for (let seed = Number(first); spoilt < Number(files); seed++) {
      const copy = join(folder, `mutant-${seed}`)
      cpSync(backup, copy, { recursive: true })
      spoilt += spoil(copy, new Random(seed))
      const began = performance.now()
      mkdirSync(join(folder, `work-${seed}`))
      const wrong = await new SpoiltJob(db, copy, join(folder, `work-${seed}`)).run()
      const ms = performance.now() - began
      if (ms > slowest.ms) slowest = { seed, ms }
      if (ms > SLOW_MS) wrong.push(`it took ${Math.round(ms / 1000)} s`)
      if (wrong.length > 0) failed++
      for (const words of wrong) console.log(`seed ${seed}: ${words}`)
      rmSync(copy, { recursive: true })
      rmSync(join(folder, `work-${seed}`), { recursive: true })
      console.log(
        `${spoilt} files, seed ${seed}, ${Math.round(ms)} ms, ${Math.round(process.memoryUsage().rss / 1e6)} MB`,
      )
    }
    console.log(
      `${spoilt} spoilt files, ${failed} jobs with something wrong; slowest: seed ${slowest.seed}, ${Math.round(slowest.ms)} ms`,
    )
    if (failed > 0) process.exitCode = 1
  } finally {
    await db.destroy()
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
