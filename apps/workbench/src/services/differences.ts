import { mayHold } from '@lumbrin/core/categories/encrypted'
import { CATEGORY_IDS, type CategoryId, definitionOf } from '@lumbrin/core/categories/registry'
import { comparability } from '@lumbrin/core/findings/restore-cost'
import type { Db } from '../database/connection.js'
import { allDifferences, countDifferences, newestDifferences } from '../database/differences.js'
import { allStates, jobDevices } from '../database/states.js'
import { COMPARED_PARTS, type ComparedItem, type ComparedPart, type RestoreCost } from '../domain/difference.js'
import { AppError } from '../domain/errors.js'
import type { JobId } from '../domain/ids.js'
import { sourceName } from '../domain/labels.js'
import type { Source } from '../domain/source.js'

const MOST_EXAMPLES = 5
const NOTHING = { onlyFirst: 0, onlySecond: 0, both: 0, changed: 0, bytesFirst: 0, bytesSecond: 0 }

/**
 * What two sources of a job show, category by category. Seen as the restore of the first onto a device that looks like
 * the second: `onlyFirst` comes back, `onlySecond` is wiped, `changed` goes back to what it was.
 * @throws AppError where a source is not of this job
 */
export async function restoreCost(db: Db, jobId: JobId, first: number, second: number): Promise<RestoreCost> {
  const [states, { sources }] = await Promise.all([allStates(db, jobId), jobDevices(db, jobId)])
  const { compared, not } = comparability(
    CATEGORY_IDS.filter((id) => !definitionOf(id).untouchedByRestore),
    states,
    requireSource(sources, first),
    requireSource(sources, second),
  )
  const counts = await countDifferences(db, jobId, first, second, compared)
  const lines = await Promise.all(
    compared.map(async (category) => {
      const line = counts.find((one) => one.category === category) ?? { category, ...NOTHING }
      const newest = (part: ComparedPart) =>
        newestDifferences(db, { jobId, category, first, second, part }, MOST_EXAMPLES)
      return {
        ...line,
        examplesFirst: line.onlyFirst > 0 ? await newest('comes-back') : [],
        examplesSecond: line.onlySecond > 0 ? await newest('wiped') : [],
      }
    }),
  )
  return { lines, notCompared: not }
}

function requireSource(sources: readonly Source[], id: number) {
  const source = sources.find((one) => one.id === id)
  if (!source) throw new AppError('not-found', 'This job has no such source.')
  const { info } = source
  return {
    id,
    name: sourceName(info),
    ofAccount: info.kind === 'cloud-library',
    mayHold: (category: CategoryId) => mayHold(info, category),
  }
}

/** Every item in which two sources differ, category by category. */
export async function* comparedItems(
  db: Db,
  jobId: JobId,
  first: number,
  second: number,
): AsyncGenerator<ComparedItem> {
  const { lines } = await restoreCost(db, jobId, first, second)
  for (const { category } of lines)
    for (const part of COMPARED_PARTS.filter((one) => one !== 'both'))
      for await (const item of allDifferences(db, { jobId, category, first, second, part }))
        yield { category, part, ...item }
}
