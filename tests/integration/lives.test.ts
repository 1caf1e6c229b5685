import { expect, inject, it } from 'vitest'
import { folderOf, live } from '../lives/run.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

/** More of them: `npm run bench -- lives`. */
const LIVES = Number(process.env.LUMBRIN_LIVES ?? 25)
const FIRST = Number(process.env.LUMBRIN_FIRST_LIFE ?? 1)

it(`of ${LIVES} simulated lives every claim is right, in whatever order sources are read`, async () => {
  const { db } = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
  const folder = scratchFolder()
  let claims = 0
  const wrong: string[] = []
  for (let seed = FIRST; seed < FIRST + LIVES; seed++) {
    const outcome = await live(db, seed, folderOf(folder, seed))
    claims += outcome.claims
    wrong.push(...outcome.wrong)
  }
  expect(wrong.slice(0, 30)).toEqual([])
  expect(claims).toBeGreaterThan(100 * LIVES)
})
