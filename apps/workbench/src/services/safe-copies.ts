import { join, relative, sep } from 'node:path'
import { type CopyWithChanges, differentFiles, withChanges } from '@lumbrin/core/copies/compare'
import { copiesIn, openPlace } from '@lumbrin/core/copies/place'
import { messageOf, SourceError } from '@lumbrin/core/io/errors'
import type { Db } from '../database/connection.js'
import {
  checksIn,
  deletePlace,
  findTask,
  insertPlace,
  insertTask,
  type KnownPlace,
  listPlaces,
  listTasks,
  moveTask,
} from '../database/copies.js'
import { listRegularCopies } from '../database/regular-copies.js'
import { findSource } from '../database/sources.js'
import type { CopiesPage, CopyAsked, CopyDifference, PlaceContents, ShownCopy } from '../domain/copies.js'
import { AppError } from '../domain/errors.js'
import type { CopyPlaceId, CopyTaskId } from '../domain/ids.js'
import { sourceName } from '../domain/labels.js'
import { requireReadable } from './bay.js'
import { requireOpenJob } from './jobs.js'
import { lockState } from './keyring.js'
import { requireAllowedFolder } from './settings.js'
import { freeSpace } from './space.js'

/** The places of safe copies, and what is done in them. */
export async function copiesPage(db: Db): Promise<CopiesPage> {
  const places = await Promise.all(
    (await listPlaces(db)).map(async ({ id, path }) => ({ id, path, away: await whyAway(path) })),
  )
  const regular = (await listRegularCopies(db)).map(({ operator, ...shown }) => shown)
  return { places, tasks: await listTasks(db), regular }
}

/** Why a place cannot be looked into now; null: it can. */
export const whyAway = (path: string): Promise<string | null> =>
  copiesIn(path).then(
    () => null,
    (thrown: unknown) => messageOf(thrown),
  )

/** @throws AppError where the folder is not allowed, holds something else or cannot be written */
export async function addPlace(db: Db, folder: string): Promise<CopyPlaceId> {
  const path = await requireAllowedFolder(db, folder)
  await openPlace(path).catch(asAppError)
  return insertPlace(db, path)
}

function asAppError(thrown: unknown): never {
  throw thrown instanceof SourceError ? new AppError('unusable', thrown.message, { cause: thrown }) : thrown
}

/** Forgets a place; its copies stay. @throws AppError while something is done in it */
export async function forgetPlace(db: Db, id: CopyPlaceId): Promise<void> {
  await requirePlace(db, id)
  const busy = (await listTasks(db)).some((task) => task.place === id && !isEnded(task.state))
  if (busy) throw new AppError('conflict', 'Something is done in this place now. Stop it first.')
  await deletePlace(db, id)
}

const isEnded = (state: string) => state === 'done' || state === 'failed' || state === 'stopped'

export async function requirePlace(db: Db, id: CopyPlaceId): Promise<KnownPlace> {
  const place = (await listPlaces(db)).find((one) => one.id === id)
  if (!place) throw new AppError('not-found', 'There is no such place of copies.')
  return place
}

/** A copy's name below the folder of copies, the same on every system. */
export const nameOf = (place: string, folder: string): string =>
  relative(join(place, 'copies'), folder).split(sep).join('/')
/** The folder of a copy by its name, which has two parts and leads nowhere else. */
export const folderOf = (place: string, name: string): string => join(place, 'copies', ...name.split('/'))

/** The copies of a place. @throws AppError where it is away */
export async function placeContents(db: Db, id: CopyPlaceId): Promise<PlaceContents> {
  const { path } = await requirePlace(db, id)
  const { copies, damaged } = await copiesIn(path).catch(asAppError)
  const checks = await lastChecks(db, id)
  const shown = (await changesOf(path, copies)).map((copy): ShownCopy => {
    const name = nameOf(path, copy.folder)
    const check = checks.get(name)
    const { deviceName, osVersion, takenAt, madeAt, files, bytes, missing, added, changed, gone, bytesAlone } = copy
    return {
      ...{ name, device: name.split('/')[0] as string, deviceName, osVersion, takenAt, madeAt, files, bytes, missing },
      ...{ added, changed, gone, bytesAlone, only: copy.only ?? null },
      // One that was made again since is another.
      checked: check && check.at > madeAt ? check : null,
    }
  })
  return {
    copies: shown,
    damaged: damaged.map(({ folder, why }) => ({ name: nameOf(path, folder), why })),
    freeBytes: await freeSpace(path),
  }
}

async function lastChecks(db: Db, id: CopyPlaceId): Promise<Map<string, { at: Date; problems: number }>> {
  const checks = new Map<string, { at: Date; problems: number }>()
  for (const { result, endedAt } of await checksIn(db, id))
    if (result?.kind === 'check' && endedAt)
      for (const { name, found } of result.copies) checks.set(name, { at: endedAt, problems: found })
  return checks
}

// The listings of all copies are read for it: what is known of the same copies is kept.
const known = new Map<string, { stamp: string; changes: Promise<CopyWithChanges[]> }>()

function changesOf(place: string, copies: Awaited<ReturnType<typeof copiesIn>>['copies']): Promise<CopyWithChanges[]> {
  const stamp = JSON.stringify(copies.map(({ folder, madeAt }) => [folder, madeAt]))
  const kept = known.get(place)
  if (kept?.stamp === stamp) return kept.changes
  const changes = withChanges(copies)
  known.set(place, { stamp, changes })
  changes.catch(() => known.delete(place))
  return changes
}

const MOST_LISTED = 500

/** What came, changed and went from one copy to another. @throws AppError where one is not there */
export async function compareCopies(db: Db, id: CopyPlaceId, from: string, to: string): Promise<CopyDifference> {
  const { path } = await requirePlace(db, id)
  const { copies } = await copiesIn(path).catch(asAppError)
  const named = (name: string) => {
    const copy = copies.find(({ folder }) => nameOf(path, folder) === name)
    if (!copy) throw new AppError('not-found', `"${name}" is not there any more.`)
    return copy
  }
  const none = () => ({ count: 0, bytes: 0, files: [] })
  const difference: CopyDifference = { added: none(), changed: none(), gone: none() }
  for await (const { change, ...file } of differentFiles(named(from), named(to))) {
    const part = difference[change]
    part.count++
    part.bytes += file.size ?? 0
    if (part.files.length < MOST_LISTED) part.files.push(file)
  }
  return difference
}

/** Queues work in a place. @throws AppError where it cannot be done */
export async function startCopyTask(db: Db, id: CopyPlaceId, work: CopyAsked): Promise<CopyTaskId> {
  const { path } = await requirePlace(db, id)
  if (work.kind === 'device') {
    const { name } = await requireReadable(work.udid)
    return insertTask(db, id, work, { jobId: null, about: name ?? work.udid })
  }
  if (work.kind === 'move') {
    const to = await requireAllowedFolder(db, work.to)
    if ((await listPlaces(db)).some((place) => place.path === to))
      throw new AppError('conflict', `"${to}" is a place of copies already. Name an empty or new folder.`)
    await copiesIn(path).catch(asAppError)
    return insertTask(db, id, { kind: 'move', to, from: path }, null)
  }
  if (work.kind !== 'copy') {
    const there = new Set((await copiesIn(path).catch(asAppError)).copies.map(({ folder }) => nameOf(path, folder)))
    const absent = work.copies.filter((name) => !there.has(name))
    if (work.copies.length === 0) throw new AppError('invalid', 'Choose copies first.')
    if (absent.length > 0) throw new AppError('not-found', `"${absent[0]}" is not there any more.`)
    return insertTask(db, id, work, null)
  }
  const source = await findSource(db, work.source)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  await requireOpenJob(db, source.jobId)
  if (source.info.kind === 'image')
    throw new AppError('unusable', 'A raw image is one file, and no state of a device: copy the file itself.')
  if (source.info.encrypted && lockState(source.id).state !== 'open')
    throw new AppError('conflict', `“${sourceName(source.info)}” is locked. Unlock it with its password first.`)
  return insertTask(db, id, work, { jobId: source.jobId, about: sourceName(source.info) })
}

/** @throws AppError where it has ended */
export async function stopCopyTask(db: Db, id: CopyTaskId): Promise<void> {
  if (!(await findTask(db, id))) throw new AppError('not-found', 'There is no such work.')
  if (await moveTask(db, id, ['queued'], 'stopped')) return
  if (!(await moveTask(db, id, ['running'], 'stopping'))) throw new AppError('conflict', 'It has ended already.')
}
