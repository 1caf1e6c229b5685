import { expect, inject, it } from 'vitest'
import { folderOf, live } from '../lives/run.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

// More of them: `npm run bench -- lives`.
const SEEDS = Array.from({ length: 15 }, (_, i) => i + 1)

let claims = 0

it.each(SEEDS)('of simulated life %i every claim is right, in whatever order sources are read', async (seed) => {
  const { db } = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
  const outcome = await live(db, seed, folderOf(scratchFolder(), seed))
  claims += outcome.claims
  expect(outcome.wrong.slice(0, 30)).toEqual([])
})

it('makes so many claims that their being right says something', () => {
  expect(claims).toBeGreaterThan(100 * SEEDS.length)
})
