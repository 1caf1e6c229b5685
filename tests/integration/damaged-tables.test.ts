import { closeSync, openSync, statSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { connect } from '../../apps/workbench/src/database/connection.js'
import { damagedTables } from '../../apps/workbench/src/database/damage.js'
import { migrate } from '../../apps/workbench/src/database/migrate.js'
import { toAppError } from '../../apps/workbench/src/server/respond.js'
import { startDatabase } from '../../scripts/setup/mariadb.mjs'
import { scratchFolder } from '../setup/fixtures.js'

describe('a table whose file was damaged', () => {
  it('is found at the start, and every answer that needs it says what to do', async () => {
    const folder = join(scratchFolder(), 'database')
    const first = await startDatabase(folder, 'lumbrin', { lasting: false })
    const before = connect(first.url)
    await migrate(before)
    expect(await damagedTables(before)).toEqual([])
    await before.destroy()
    await first.stop()
    const path = join(folder, 'data/lumbrin/tray_blocks.ibd')
    const file = openSync(path, 'r+')
    writeSync(file, Buffer.alloc(statSync(path).size), 0, statSync(path).size, 0)
    closeSync(file)
    const second = await startDatabase(folder, 'lumbrin', { lasting: false })
    const db = connect(second.url)
    try {
      expect(await damagedTables(db)).toEqual(['tray_blocks'])
      const thrown = await db('tray_blocks')
        .count()
        .catch((error: unknown) => error)
      expect(toAppError(thrown).message).toMatch(/file of its own that is damaged.*npm run restore/)
      expect(await db('jobs').count({ n: '*' }).first()).toEqual({ n: 0 })
    } finally {
      await db.destroy()
      await second.stop()
    }
  })
})
