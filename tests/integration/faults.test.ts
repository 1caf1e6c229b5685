import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { Doors, type Fault, FILE_FAULTS, LINE_FAULTS } from '../faults/doors.js'
import { faultSources } from '../faults/sources.js'
import { type JobResult, WholeJob } from '../faults/whole-job.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'
import { workbenchWith } from './workbench.js'

const doors = new Doors()
beforeAll(() => doors.install())
afterAll(() => doors.remove())

/** A sample of what `npm run bench -- faults` tries at every call. */
const SHARES = [0.04, 0.6]

describe('a whole job in which one call fails', () => {
  it.each([...FILE_FAULTS, ...LINE_FAULTS])('%s: is honest, loses nothing and doubles nothing', async (fault) => {
    const { db } = await workbenchWith(inject('databaseUrl'), demoBackup(inject('demoFolder')).folder)
    doors.guard(db)
    const place = scratchFolder()
    const sources = await faultSources(join(place, 'sources'))
    let jobs = 0
    const job = (kind: Fault, n: number): Promise<JobResult> =>
      new WholeJob(db, doors, sources, join(place, `job-${jobs++}`)).run(kind, n)
    const whole = await job(fault, 0)
    expect(whole).toMatchObject({ met: null, wrong: [] })
    expect(whole.found.split('\n').length).toBeGreaterThan(30)
    expect(whole.handedOver.split('\n').length).toBeGreaterThan(3)
    for (const share of SHARES) {
      const n = Math.max(1, Math.round(whole.calls * share))
      const { met, wrong, found, handedOver } = await job(fault, n)
      expect({ n, met, wrong }).toEqual({ n, met: expect.any(String), wrong: [] })
      expect({ n, met, found }).toEqual({ n, met, found: whole.found })
      expect({ n, met, handedOver }).toEqual({ n, met, handedOver: whole.handedOver })
    }
  })
})
