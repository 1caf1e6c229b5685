import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { runKilledJob } from '../faults/killed-job.js'
import { RunningLumbrin } from '../faults/running.js'
import { demoBackup, scratchFolder } from '../setup/fixtures.js'

// `npm run bench -- kills` does so dozens of times.
describe('the application as it is started', () => {
  it('comes to the same result whichever of its processes is killed, while it reads or hands over', async () => {
    const folder = scratchFolder()
    const to = join(folder, 'handovers')
    mkdirSync(to)
    const sources = [demoBackup(inject('demoFolder'), 'legacy').folder]
    const lumbrin = await RunningLumbrin.start(join(folder, 'data'), to)
    try {
      const { found, handedOver, readMs, handoverMs } = await runKilledJob(lumbrin, sources, to, [])
      const during = (
        part: 'launcher' | 'database' | 'server' | 'reader',
        during: 'read' | 'handover',
        share: number,
      ) => ({ part, during, afterMs: share * (during === 'read' ? readMs : handoverMs) }) as const
      for (const kills of [
        [during('reader', 'read', 0.4), during('database', 'handover', 0.3)],
        [during('database', 'read', 0.2), during('server', 'read', 0.3), during('launcher', 'handover', 0.2)],
      ])
        expect(await runKilledJob(lumbrin, sources, to, kills)).toMatchObject({ found, handedOver })
    } finally {
      await lumbrin.stop()
    }
  })
})
