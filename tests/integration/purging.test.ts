import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, inject, it } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { connect } from '../../apps/workbench/src/database/connection.js'
import { listLog } from '../../apps/workbench/src/database/log.js'
import { migrate } from '../../apps/workbench/src/database/migrate.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { ReadId } from '../../apps/workbench/src/domain/ids.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { purgeJob } from '../../apps/workbench/src/services/purging.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { startDatabase } from '../../scripts/setup/mariadb.mjs'
import { demoBackup, scratchFolder, tool } from '../setup/fixtures.js'

describe('a purge', () => {
  it('leaves no word of the job in any file of the data folder, the database’s logs among them', async () => {
    const data = join(scratchFolder(), 'data')
    process.env.LUMBRIN_DATA = data
    const { folder, truth } = demoBackup(inject('demoFolder'))
    const long = truth.messages.flatMap(({ text }) => (text && text.length > 25 && /^[\w ]+/.test(text) ? [text] : []))
    const words = (/^[\w ]+/.exec(long[0] ?? '') ?? [''])[0]
    expect(words.length).toBeGreaterThan(8)
    const database = await startDatabase(join(data, 'database'))
    process.env.LUMBRIN_DATABASE_URL = database.url
    const db = connect(database.url)
    // grep ends with 1 where it finds nothing.
    const found = () => tool('sh', '-c', `grep -rlaF '${words}' '${data}' || test $? = 1`)
    try {
      await migrate(db)
      const job = await openJob(db, briefSchema.parse({ owner: words }))
      await addSource(db, job.id, folder).then(async (id) =>
        startRead(db, id, { categories: ['messages'], passes: ['live'] }),
      )
      await runRead(db, (await claimWork(db, 'reads', 'test:1')) as ReadId, new AbortController().signal)
      expect(found()).toContain('ib_logfile0')
      await purgeJob(db, job.id, job.number)
      expect((await listLog(db, job.id)).find(({ action }) => action === 'Purged')?.detail).not.toContain(
        'not Lumbrin’s',
      )
      // The database overwrites deleted rows a moment later.
      for (let tries = 0; tries < 60 && found() !== ''; tries++) await sleep(500)
      expect(found()).toBe('')
    } finally {
      await db.destroy()
      await database.stop()
    }
    expect(found()).toBe('')
  })
})
