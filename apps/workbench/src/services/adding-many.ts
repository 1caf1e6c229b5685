import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Db } from '../database/connection.js'
import { findSource } from '../database/sources.js'
import { AppError } from '../domain/errors.js'
import type { JobId, SourceId } from '../domain/ids.js'
import type { AddedMany } from '../domain/source.js'
import { log } from '../log.js'
import { requireOpenJob } from './jobs.js'
import { tryOn } from './keyring.js'
import { addSource, startRead } from './sources.js'

/** What is to be done with backups that are added together. */
export interface ManyWish {
  /** In the order in which they are read. */
  folders: readonly string[]
  /** Tried on those that are locked; null: none is known. It is not kept. */
  password: string | null
  /** They are read for what the brief seeks. */
  read: boolean
  /** Of how many matches on no more is read; null: all is. */
  enough: number | null
}

/**
 * Adds many backups to a job, and queues their reads in that order. One that cannot be added holds up no other. What is
 * locked waits until its password is known, while others are read. @throws AppError where the job is none, or was purged
 */
export async function addMany(db: Db, jobId: JobId, wish: ManyWish): Promise<AddedMany> {
  const { categories } = (await requireOpenJob(db, jobId)).brief
  const added: SourceId[] = []
  const refused: AddedMany['refused'] = []
  for (const folder of wish.folders)
    try {
      added.push(await addOne(db, jobId, folder, categories, wish))
    } catch (thrown) {
      if (!(thrown instanceof AppError)) throw thrown
      refused.push({ folder, why: thrown.message })
    }
  if (wish.password !== null)
    // Keys take seconds each: nobody waits for all of them.
    void tryOnAll(db, added, wish.password).catch((err: unknown) => log.error({ err }, 'locks were not tried'))
  return { added, refused }
}

async function addOne(
  db: Db,
  jobId: JobId,
  folder: string,
  categories: readonly CategoryId[],
  { read, enough }: ManyWish,
): Promise<SourceId> {
  const id = await addSource(db, jobId, folder)
  if (read) await startRead(db, id, { categories, enough })
  return id
}

async function tryOnAll(db: Db, ids: readonly SourceId[], password: string): Promise<void> {
  const sources = await Promise.all(ids.map((id) => findSource(db, id)))
  await tryOn(
    db,
    sources.flatMap((source) => source ?? []),
    password,
  )
}
