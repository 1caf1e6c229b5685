import { listChangedAt } from '@lumbrin/core/backup/info'
import type { SourceTree } from '@lumbrin/core/backup/types'
import { isListDamaged } from '@lumbrin/core/categories/account'
import { openSource } from '@lumbrin/core/collected/open'
import { SourceError, type Warning } from '@lumbrin/core/io/errors'
import { type ByteRange, type ByteSource, partOf } from '@lumbrin/core/io/source'
import { minuteIn } from '@lumbrin/core/io/time-zone'
import type { Db } from '../database/connection.js'
import { findSource } from '../database/sources.js'
import { AppError } from '../domain/errors.js'
import type { SourceId } from '../domain/ids.js'
import type { Source } from '../domain/source.js'
import { keysOf } from './keyring.js'

// Opening a source means reading its whole manifest, so the last few stay open.
const MAX_OPEN = 4

interface OpenTree {
  tree: SourceTree
  /** Part of its list could not be read. */
  damaged: boolean
}
const open = new Map<SourceId, { stamp: string; opened: Promise<OpenTree> }>()

/** A source of a job, opened. @throws AppError('not-found'), SourceError when it cannot be read any more */
export async function treeOf(db: Db, sourceId: SourceId): Promise<SourceTree> {
  const source = await findSource(db, sourceId)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  // A collection grows with each read, in another process perhaps, and a backup may be made anew in its place: what was
  // opened before does not show it.
  const stamp = `${source.takenAt?.getTime()} ${source.files} ${source.bytes} ${await listChangedAt(source.path)}`
  const known = open.get(sourceId)
  if (known?.stamp === stamp) return (await known.opened).tree
  await forgetTree(sourceId)
  const opened = openTree(source)
  open.set(sourceId, { stamp, opened })
  opened.catch(() => open.delete(sourceId))
  for (const id of open.keys()) {
    if (open.size <= MAX_OPEN) break
    void forgetTree(id)
  }
  return (await opened).tree
}

/** The same for whoever keeps it open for long, and closes it. @throws AppError('not-found'), SourceError */
export async function openOwnTree(db: Db, sourceId: SourceId): Promise<SourceTree> {
  const source = await findSource(db, sourceId)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  return (await openTree(source)).tree
}

async function openTree({ id, path, takenAt }: Source): Promise<OpenTree> {
  const warnings: Warning[] = []
  const tree = await openSource(path, (warning) => warnings.push(warning), { keys: await keysOf(id) })
  const now = tree.info.kind === 'computer-backup' ? tree.info.takenAt : null
  if (!now || !takenAt || now.getTime() === takenAt.getTime()) return { tree, damaged: isListDamaged(warnings) }
  await tree.close()
  throw new SourceError(
    'not-readable',
    `The backup in "${path}" was made anew since: the state of ${minuteIn(takenAt, 'UTC')} UTC does not lie there any more.`,
  )
}

/** Opens a file of a source; undefined where the source does not hold it. The caller closes it. */
export async function openContent(
  db: Db,
  sourceId: SourceId,
  domain: string,
  path: string,
  range?: ByteRange,
): Promise<ByteSource | undefined> {
  const tree = await treeOf(db, sourceId)
  const entry = tree.find(domain, path)
  const source = entry && (await tree.open(entry))
  return source && partOf(source, range)
}

/** Closes a source that is not used any more. */
export async function forgetTree(sourceId: SourceId): Promise<void> {
  const known = open.get(sourceId)
  open.delete(sourceId)
  await known?.opened.then(({ tree }) => tree.close()).catch(() => {})
}

/** Closes sources whose lists could not be read whole: the disk may give out now what it did not then. */
export async function forgetDamagedTrees(): Promise<void> {
  for (const [id, { opened }] of open)
    if (await opened.then(({ damaged }) => damaged).catch(() => false)) await forgetTree(id)
}
