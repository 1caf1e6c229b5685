import type { ClassKeys } from '@lumbrin/core/backup/unlock'
import { unlockSource } from '@lumbrin/core/collected/open'
import { messageOf, SourceError } from '@lumbrin/core/io/errors'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import { findSource, listSources } from '../database/sources.js'
import { AppError } from '../domain/errors.js'
import type { SourceId } from '../domain/ids.js'
import type { LockState, Source } from '../domain/source.js'
import { log } from '../log.js'
import { askServer, requireReader } from './internal.js'

interface Held extends LockState {
  keys: ClassKeys | undefined
}

// Keys live here and nowhere else: they go with the process. Passwords are not kept at all.
const held = new Map<number, Held>()
const LOCKED: Held = { state: 'locked', share: 0, message: null, keys: undefined }

export function lockState(sourceId: SourceId): LockState {
  const { state, share, message } = held.get(sourceId) ?? LOCKED
  return { state, share, message }
}

/**
 * Begins to open a source with a password; `others`: the job's other locked sources after it, if it opens this one. How it
 * goes is told by `lockState`. @throws AppError
 */
export async function beginUnlock(db: Db, sourceId: SourceId, password: string, others = false): Promise<void> {
  const source = await findSource(db, sourceId)
  if (!source) throw new AppError('not-found', 'There is no such source.')
  if (!source.info.encrypted) throw new AppError('conflict', 'This source is not encrypted.')
  if (held.get(sourceId)?.state === 'opening') throw new AppError('conflict', 'This source is being opened already.')
  void unlock(db, source, password).then(async (opened) => {
    if (opened && others) await unlockOthers(db, source, password)
  })
}

async function unlock(db: Db, { id, path, jobId }: Source, password: string): Promise<boolean> {
  const opening: Held = { state: 'opening', share: 0, message: null, keys: undefined }
  held.set(id, opening)
  const progress = (share: number) => {
    // A second form of the password starts from the beginning; the bar does not.
    opening.share = Math.max(opening.share, share)
  }
  const warnings: string[] = []
  try {
    const keys = await unlockSource(path, { password, progress }, (warning) => void warnings.push(warning.message))
    // Somebody called it off meanwhile: what was derived is not kept.
    if (held.get(id) !== opening) return false
    held.set(id, { state: 'open', share: 1, message: warnings.join(' ') || null, keys })
    await appendLog(db, jobId, 'Source unlocked', `${path}. The password was not kept.`)
    return true
  } catch (thrown) {
    if (!(thrown instanceof SourceError)) log.error({ err: thrown }, 'a lock was not opened')
    if (held.get(id) === opening) held.set(id, { ...LOCKED, message: messageOf(thrown) })
    return false
  }
}

async function unlockOthers(db: Db, { id, jobId }: Source, password: string): Promise<void> {
  await tryOn(
    db,
    (await listSources(db, jobId)).filter((one) => one.id !== id),
    password,
  )
}

/**
 * Tries a password on all of some sources that are locked, one after the other: each takes all of a processor for some
 * seconds. How each stands is told by `lockState`.
 */
export async function tryOn(db: Db, sources: readonly Source[], password: string): Promise<void> {
  for (const one of sources)
    if (one.info.encrypted && lockState(one.id).state === 'locked') await unlock(db, one, password)
}

/** Forgets the keys of a source, also those that are being derived. */
export function forgetKeys(sourceId: SourceId): void {
  held.delete(sourceId)
}

let provider = async (sourceId: SourceId): Promise<ClassKeys | undefined> => held.get(sourceId)?.keys

/** The keys of an unlocked source; undefined: none are held. */
export const keysOf = (sourceId: SourceId): Promise<ClassKeys | undefined> => provider(sourceId)

/** Keys as they travel from the server to a reader on the same secret: class and key in base64. */
export type KeysOnWire = [number, string][]

/** The keys of a source for a process that knows the secret. @throws AppError('not-found') otherwise */
export async function keysForReader(sourceId: SourceId, secret: string | null): Promise<KeysOnWire> {
  requireReader(secret)
  return [...((await keysOf(sourceId)) ?? [])].map(([id, key]) => [id, Buffer.from(key).toString('base64')])
}

/** Lets this process ask the server for keys: the reader has no password field of its own. */
export function askServerForKeys(): void {
  provider = async (sourceId) => {
    const answer = await askServer(`/api/internal/keys/${sourceId}`)
    if (!answer) return undefined
    const keys = (await answer.json()) as KeysOnWire
    return keys.length === 0 ? undefined : new Map(keys.map(([id, key]) => [id, Buffer.from(key, 'base64')]))
  }
}
