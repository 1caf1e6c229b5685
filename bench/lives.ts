import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { connect } from '../apps/workbench/src/database/connection.js'
import { migrate } from '../apps/workbench/src/database/migrate.js'
import { startDatabase } from '../scripts/setup/mariadb.mjs'
import { folderOf, live } from '../tests/lives/run.js'

const TELL_EVERY = 25

/** `npm run bench -- lives [HOW-MANY [FIRST-SEED]]`: every claim about simulated lives, against what happened in them. */
export async function benchLives([many = '500', first = '1001']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-lives-'))
  process.env.LUMBRIN_DATA = join(folder, 'data')
  const server = await startDatabase(join(folder, 'database'), 'lumbrin_bench', { lasting: false })
  process.env.LUMBRIN_DATABASE_URL = server.url
  const db = connect(server.url)
  let claims = 0
  let wrong = 0
  let faulty = 0
  try {
    await migrate(db)
    for (let n = 0; n < Number(many); n++) {
      const seed = Number(first) + n
      const place = folderOf(folder, seed)
      const outcome = await live(db, seed, place)
      rmSync(place, { recursive: true, force: true })
      // Counts of one life have nothing to do with those of another.
      await db('jobs').delete()
      claims += outcome.claims
      wrong += outcome.wrong.length
      if (outcome.wrong.length > 0) faulty++
      for (const words of outcome.wrong.slice(0, 5)) console.log(words)
      if ((n + 1) % TELL_EVERY === 0) console.log(`${n + 1} lives: ${claims} claims, ${wrong} wrong in ${faulty} lives`)
    }
    console.log(`${many} lives from seed ${first}: ${claims} claims, ${wrong} wrong in ${faulty} lives`)
  } finally {
    await db.destroy()
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  if (wrong > 0) process.exitCode = 1
}
