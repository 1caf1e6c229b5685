import { expect, inject, it } from 'vitest'
import { connect } from '../../apps/workbench/src/database/connection.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { migratedDatabase } from './workbench.js'

it('jobs that are opened at the same moment, by several servers, have numbers one after the other', async () => {
  const { db, url } = await migratedDatabase(inject('databaseUrl'))
  const other = connect(url)
  const brief = briefSchema.parse({ owner: 'Odile Varga' })
  const jobs = await Promise.all(Array.from({ length: 300 }, (_, i) => openJob(i % 2 ? db : other, brief)))
  await other.destroy()
  const numbers = jobs.map(({ number }) => Number(number.slice(5, 9))).sort((a, b) => a - b)
  expect(numbers).toEqual(Array.from({ length: 300 }, (_, i) => i + 1))
})
