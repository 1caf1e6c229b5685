import { join } from 'node:path'
import { heldByCopyOf } from '@lumbrin/core/categories/encrypted'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { CopyChecker } from '@lumbrin/core/copies/check'
import { type CopyOutcome, makeCopy } from '@lumbrin/core/copies/make'
import { copyPlace, removePlace } from '@lumbrin/core/copies/move'
import { copiesIn } from '@lumbrin/core/copies/place'
import { removeCopies } from '@lumbrin/core/copies/remove'
import { copyDevice } from '@lumbrin/core/device/copy'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { messageOf, SourceError } from '@lumbrin/core/io/errors'
import { digest } from '@lumbrin/core/io/hash'
import { readConfig } from '../config.js'
import { beat } from '../database/claims.js'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { endTask, findTask, insertPlace, movePlace, moveTask, noteTask } from '../database/copies.js'
import { appendLog } from '../database/log.js'
import type { CopyResult, CopyTask, CopyWork } from '../domain/copies.js'
import { formatBytes, plural } from '../domain/format.js'
import type { CopyTaskId, SourceId } from '../domain/ids.js'
import { folderOf, requirePlace, whyAway } from './safe-copies.js'
import { openOwnTree } from './trees.js'
import { Stopped, Watch } from './watch.js'

// More would only fill the database: the first say what is wrong.
const MOST_PROBLEMS = 100

type CopyWatch = Watch<{ done: number; total: number }>

/**
 * Does claimed work in a place of copies; what it came to is stored with it. Where this process is told to end, or the
 * database goes away, it is done again later, and uses what is there.
 * @throws the database's error when it is away
 */
export async function runCopyTask(db: Db, id: CopyTaskId, ending: AbortSignal): Promise<void> {
  const task = await findTask(db, id)
  // Whoever did it died while somebody wanted it stopped.
  if (!task || (await moveTask(db, id, ['stopping'], 'stopped'))) return
  const watch: CopyWatch = new Watch(ending, { done: 0, total: 0 }, async (progress) => {
    await beat(db, 'copy_tasks', id)
    await noteTask(db, id, progress)
    // Of a job that is purged meanwhile nothing is kept.
    return ((await findTask(db, id))?.state ?? 'stopping') === 'stopping'
  })
  try {
    const { path } = await requirePlace(db, task.place)
    const away = await whyAway(path)
    // Else the folder would be made anew on this computer's own disk, where the other one is attached at other times.
    if (away) throw new SourceError('not-found', `${away} Attach its disk, and begin again.`)
    const result = await resultOf(db, path, task.work, watch)
    await endTask(db, id, { result })
    if (task.job !== null && result.kind === 'copy' && (await findTask(db, id)))
      await appendLog(db, task.job, 'Safe copy made', wordsOn(task, path, result))
  } catch (thrown) {
    if (isConnectionLoss(thrown)) throw thrown
    if (ending.aborted) await moveTask(db, id, ['running'], 'queued')
    else if (thrown instanceof Stopped) await moveTask(db, id, ['stopping', 'running'], 'stopped')
    else await endTask(db, id, { error: messageOf(thrown) })
  } finally {
    watch.end()
  }
}

function wordsOn(
  { about }: CopyTask,
  path: string,
  { made, newContents, newBytes, missing }: CopyResult & { kind: 'copy' },
) {
  const what = made ? `${plural(newContents, 'new content')}, ${formatBytes(newBytes)}` : 'its state was there already'
  return `${about}, in ${path}: ${what}${missing > 0 ? `, ${plural(missing, 'content')} missing` : ''}`
}

async function resultOf(db: Db, place: string, work: CopyWork, watch: CopyWatch): Promise<CopyResult> {
  const { signal } = watch
  switch (work.kind) {
    case 'copy':
      return copyOf(db, place, work.source, watch)
    case 'device':
      return asResult(
        await copyDevice(new Multiplexer(), work.udid, place, {
          ...optionsFor(watch),
          part: work.part,
          only: work.part === 'media' ? OF_MEDIA : undefined,
          folder: join(readConfig().dataFolder, 'copying', digest('sha256', work.udid).slice(0, 16)),
        }),
      )
    case 'check': {
      const checker = new CopyChecker(signal, true)
      const copies: Extract<CopyResult, { kind: 'check' }>['copies'] = []
      for (const [done, name] of work.copies.entries()) {
        watch.note({ done, total: work.copies.length })
        const { checked, problems } = await checker.check(folderOf(place, name))
        // What is missing since its disk was taken away is not missing: this throws then.
        if (problems.length > 0) await copiesIn(place)
        copies.push({ name, checked, problems: problems.slice(0, MOST_PROBLEMS), found: problems.length })
      }
      return { kind: 'check', copies }
    }
    case 'remove': {
      const folders = work.copies.map((name) => folderOf(place, name))
      const { copies, bytes, swept } = await removeCopies(place, folders, signal)
      return { kind: 'remove', copies, bytes, swept }
    }
    case 'move':
      return moveOf(db, place, work, watch)
  }
}

/** Moves a place. Where not all of it is right in the new folder both stay: only what is whole elsewhere is removed. */
async function moveOf(
  db: Db,
  place: string,
  { from, to }: Extract<CopyWork, { kind: 'move' }>,
  watch: CopyWatch,
): Promise<CopyResult> {
  // An earlier run of this task moved it, and was broken off before the old folder was cleared.
  if (place === to) {
    await removePlace(from, to)
    return { kind: 'move', copies: (await copiesIn(to)).copies.length, problems: [], found: 0 }
  }
  const { copies, problems } = await copyPlace(from, to, optionsFor(watch))
  if (problems.length > 0) await insertPlace(db, to)
  else {
    await movePlace(db, from, to)
    await removePlace(from, to)
  }
  return { kind: 'move', copies, problems: problems.slice(0, MOST_PROBLEMS), found: problems.length }
}

async function copyOf(db: Db, place: string, source: SourceId, watch: CopyWatch): Promise<CopyResult> {
  const tree = await openOwnTree(db, source)
  try {
    return asResult(await makeCopy(tree, place, { ...optionsFor(watch), only: heldByCopyOf(tree.info) }))
  } finally {
    await tree.close()
  }
}

const optionsFor = (watch: CopyWatch) => ({
  // What is missing is counted; a source's own account names it.
  report: () => {},
  signal: watch.signal,
  progress: (done: number, total: number) => watch.note({ done, total }),
})

const asResult = ({ made, newContents, newBytes, copy }: CopyOutcome): CopyResult => ({
  ...{ kind: 'copy', made, newContents, newBytes, missing: copy.missing },
})

/** Categories whose files all lie in the media area of a device. */
const OF_MEDIA: readonly CategoryId[] = ['photos', 'videos', 'places', 'music']
