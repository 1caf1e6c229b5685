import { cpSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { Random } from '@lumbrin/standins/random'
import { describe, expect, inject, it } from 'vitest'
import { spoil } from '../faults/mutated.js'
import { SpoiltJob } from '../faults/spoilt-job.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { migratedDatabase } from './workbench.js'

// `npm run bench -- mutants` does so with 20,000 files.
describe('a backup of which every file was spoilt', () => {
  it('is read, looked at, handed over and purged', async () => {
    const folder = scratchFolder()
    const copy = join(folder, 'backup')
    cpSync(demoBackup(inject('demoFolder'), 'plain').folder, copy, { recursive: true })
    expect(spoil(copy, new Random(7), 0.15)).toBeGreaterThan(50)
    const { db } = await migratedDatabase(inject('databaseUrl'))
    process.env.LUMBRIN_ROOTS = folder
    mkdirSync(join(folder, 'to'))
    expect(await new SpoiltJob(db, copy, join(folder, 'to')).run()).toEqual([])
  })
})
