import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { asId } from '../../apps/workbench/src/database/json.js'
import type { JobId } from '../../apps/workbench/src/domain/ids.js'
import { EndedBadly, type Part, type RunningLumbrin } from './running.js'

/** When a part of the application is killed: so many milliseconds after a job's work of that kind began. */
export interface Kill {
  part: Part
  during: 'read' | 'handover'
  afterMs: number
}

/** What a job came to, as text to be compared; and how long its work took without anything killed. */
export interface KilledJob {
  found: string
  handedOver: string
  readMs: number
  handoverMs: number
}

/**
 * A job over the running application: sources are read, everything is handed over, and meanwhile parts are killed.
 * @throws where something does not come to its end, or the package is not what its list says
 */
export async function runKilledJob(
  lumbrin: RunningLumbrin,
  sources: readonly string[],
  to: string,
  kills: readonly Kill[],
): Promise<KilledJob> {
  const killDuring = async (during: Kill['during']) => {
    for (const { part, afterMs } of kills.filter((kill) => kill.during === during)) {
      await sleep(afterMs)
      await lumbrin.kill(part)
    }
  }
  const job = asId<JobId>((await lumbrin.send('/api/jobs', { owner: 'Odile Varga' })).id)
  for (const folder of sources) {
    const { id } = await lumbrin.send(`/api/jobs/${job}/sources`, { folder })
    await lumbrin.send(`/api/sources/${id}/reads`, { categories: [], passes: [] })
  }
  const readFrom = Date.now()
  await killDuring('read')
  await lumbrin.until(async () => {
    const { reads } = await lumbrin.progress(job)
    return reads.length === sources.length && reads.every((read) => endedWell(read, `read of job ${job}`))
  }, 'the reads end')
  const readMs = Date.now() - readFrom
  const found = await counts(lumbrin, job)
  await lumbrin.send(`/api/jobs/${job}/tray`, { addMatching: '' })
  const folder = join(to, `job-${job}`)
  await lumbrin.send(`/api/jobs/${job}/handovers`, { kind: 'folder', folder })
  const handoverFrom = Date.now()
  await killDuring('handover')
  await lumbrin.until(async () => {
    const { handovers } = await lumbrin.progress(job)
    return handovers.length > 0 && handovers.every((one) => endedWell(one, `handover of job ${job}`))
  }, 'the handover ends')
  const handoverMs = Date.now() - handoverFrom
  return { found, handedOver: packageIn(folder), readMs, handoverMs }
}

/** @throws EndedBadly where waiting for it makes no sense any more */
function endedWell({ state, error }: { state: string; error: string | null }, what: string): boolean {
  if (state === 'failed' || state === 'stopped') throw new EndedBadly(`the ${what} ${state}: ${error}`)
  return state === 'done' || state === 'gaps'
}

async function counts(lumbrin: RunningLumbrin, job: JobId): Promise<string> {
  let found = ''
  await lumbrin.until(async () => {
    const answer = await lumbrin.ask(`/api/jobs/${job}/facets`)
    if (answer.ok) found = await answer.text()
    return answer.ok
  }, 'findings are counted')
  return found
}

// These tell of this job's number and time.
const OF_THIS_JOB = /data\/(index\.|report|provenance|site\/start\.js)/

/** What lies in a package; sha256sum says that it is what the list says. */
function packageIn(folder: string): string {
  execFileSync('sha256sum', ['--strict', '--quiet', '-c', 'manifest-sha256.txt'], { cwd: folder })
  return readFileSync(join(folder, 'manifest-sha256.txt'), 'utf8')
    .split('\n')
    .filter((line) => !OF_THIS_JOB.test(line))
    .sort()
    .join('\n')
}
