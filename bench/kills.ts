import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildDemo } from '@lumbrin/standins/demo/build'
import { type Kill, runKilledJob } from '../tests/faults/killed-job.js'
import { PARTS, RunningLumbrin } from '../tests/faults/running.js'

/**
 * `npm run bench -- kills [TIMES]`: the application as it is started, each of whose processes is killed so many times while
 * jobs are read and handed over. What comes of each job must be the same. After `npm run build`.
 */
export async function benchKills([times = '40']: string[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-kills-'))
  const to = join(folder, 'handovers')
  mkdirSync(to)
  const demo = join(folder, 'sources')
  const truth = await buildDemo(demo, { messages: 1500, lostMessages: 200, pictures: 40, items: 60, rounds: 1000 })
  const sources = [truth.plain, truth.legacy].map((one) => join(demo, 'Backup', one.folder))
  const lumbrin = await RunningLumbrin.start(join(folder, 'data'), to)
  let killed = 0
  let wrong = 0
  try {
    const whole = await runKilledJob(lumbrin, sources, to, [])
    console.log(`without a kill: read in ${whole.readMs} ms, handed over in ${whole.handoverMs} ms`)
    for (let round = 0; round < (Number(times) * PARTS.length) / 2; round++) {
      const share = ((round * 7) % 20) / 20
      const kills: Kill[] = (['read', 'handover'] as const).map((during, i) => ({
        part: PARTS[(2 * round + i + Math.floor(round / 2)) % PARTS.length] as Kill['part'],
        during,
        afterMs: share * (during === 'read' ? whole.readMs : whole.handoverMs),
      }))
      const name = kills.map(({ part, during, afterMs }) => `${part} ${Math.round(afterMs)} ms into the ${during}`)
      killed += kills.length
      try {
        const job = await runKilledJob(lumbrin, sources, to, kills)
        if (job.found !== whole.found) throw new Error(`found was ${job.found} in place of ${whole.found}`)
        if (job.handedOver !== whole.handedOver) throw new Error('what was handed over is not the same')
      } catch (thrown) {
        wrong++
        console.log(`${name.join(', ')}: ${(thrown as Error).message}`)
      }
      if (killed % 20 === 0) console.log(`${killed} kills, ${wrong} jobs with something wrong`)
    }
    console.log(`${killed} kills of ${PARTS.join(', ')}: ${wrong} jobs with something wrong`)
    if (wrong > 0) process.exitCode = 1
  } finally {
    await lumbrin.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
