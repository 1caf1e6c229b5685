import { join } from 'node:path'
import { Random } from '@lumbrin/standins/random'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { type Capture, captureAll } from './capture.js'
import { Comparison } from './compare.js'
import { LivedJob, type Outcome } from './job.js'
import { makeLife } from './life.js'

/** Lives one life: its devices are captured, read twice in different orders, and every claim is compared. */
export async function live(db: Db, seed: number, folder: string): Promise<Outcome> {
  const random = new Random(seed)
  const life = makeLife(random, seed)
  const captures = await captureAll(random, life, folder)
  const outcome: Outcome = { claims: 0, wrong: [] }
  const categories = [...new Set(life.items.map(({ category }) => category))]
  const unread = categories.filter(() => random.chance(0.1))
  const wanted = categories.filter((category) => random.chance(0.6) || category === categories[0])
  const claims: Map<string, string>[] = []
  for (let order = 0; order < 2; order++) {
    const job = new LivedJob(db, new Random(seed * 31 + order), life, captures, outcome)
    await job.open(wanted)
    // One source is not read for some categories, in neither order.
    await job.read(categories, captures[0] as Capture, unread)
    claims.push(await new Comparison(job).claims())
    await job.close()
  }
  const [first, second] = claims
  for (const name of new Set([...(first?.keys() ?? []), ...(second?.keys() ?? [])]))
    if (first?.get(name) !== second?.get(name))
      outcome.wrong.push(`seed ${seed}, ${name}: ${first?.get(name)}, in another order ${second?.get(name)}`)
  return outcome
}

/** The folder of one life, by its seed, below the folder of all. */
export const folderOf = (below: string, seed: number): string => join(below, `life-${seed}`)
