import { describe, expect, inject, it } from 'vitest'
import { connect, type Db } from '../../apps/workbench/src/database/connection.js'
import { migrate } from '../../apps/workbench/src/database/migrate.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { emptyDatabase } from './workbench.js'

/** What makes the tables of a database, but for the numbers that it will give next. */
async function shapeOf(db: Db): Promise<string[]> {
  const names: string[] = await db('information_schema.tables')
    .whereRaw('table_schema = database()')
    .pluck('table_name')
  const shapes = names.map(async (name) => {
    const [[table]] = await db.raw('SHOW CREATE TABLE ??', name)
    return String(table['Create Table']).replace(/ AUTO_INCREMENT=\d+/, '')
  })
  return (await Promise.all(shapes)).sort()
}

const wholeShape = () =>
  [...inject('tables')]
    .filter((statement) => statement.startsWith('CREATE TABLE'))
    .map(unnumbered)
    .sort()
const unnumbered = (statement: string) => statement.replace(/ AUTO_INCREMENT=\d+/, '')

/** From the n-th statement on that changes anything, nothing works any more: as where a process is killed. */
function breakAt(db: Db, n: number): void {
  let count = 0
  db.on('query', ({ sql }: { sql: string }) => {
    if (!/^(create|alter|drop|insert|update)/i.test(sql) || /GET_LOCK/.test(sql)) return
    if (++count >= n) throw Object.assign(new Error('the process was killed'), { code: 'KILLED' })
  })
}

describe('bringing a database to the newest version', () => {
  it('is done once, however often it is asked for, and by however many at once', async () => {
    const { db, url } = await emptyDatabase(inject('databaseUrl'))
    const others = [connect(url), connect(url)]
    await Promise.all([db, ...others].map((one) => migrate(one)))
    await migrate(db)
    expect(await shapeOf(db)).toEqual(wholeShape())
    await Promise.all(others.map((one) => one.destroy()))
  })

  it('goes on after a start that was killed, and left its lock', async () => {
    const { db } = await emptyDatabase(inject('databaseUrl'))
    await migrate(db)
    await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
    await db('knex_migrations_lock').update({ is_locked: 1 })
    await migrate(db)
    expect(await db('jobs').pluck('owner')).toEqual(['Odile Varga'])
    expect(await db('knex_migrations_lock').pluck('is_locked')).toEqual([0])
  })

  it('makes a first start whole that was killed at any of its statements', async () => {
    for (const n of [1, 2, 3, 5, 8, 13, 21, 34, 55]) {
      const { db, url } = await emptyDatabase(inject('databaseUrl'))
      const broken = connect(url)
      breakAt(broken, n)
      await expect(migrate(broken)).rejects.toThrow()
      await broken.destroy()
      await migrate(db)
      expect(await shapeOf(db)).toEqual(wholeShape())
    }
  })

  it('removes nothing where there are jobs, and says what to do', async () => {
    const { db } = await emptyDatabase(inject('databaseUrl'))
    await migrate(db)
    await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
    // As a version leaves it that was ended amid its last change.
    await db('knex_migrations').where({ name: '2026-11-30-log-chain' }).delete()
    await expect(migrate(db)).rejects.toThrow(/could not be brought to this version.*Nothing of its jobs was removed/)
    expect(await db('jobs').pluck('owner')).toEqual(['Odile Varga'])
  })
})
