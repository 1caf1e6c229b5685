import { stat } from 'node:fs/promises'
import { listChangedAt } from '@lumbrin/core/backup/info'
import { CloudError } from '@lumbrin/core/cloud/errors'
import { Collection } from '@lumbrin/core/collected/collection'
import { describeDevice } from '@lumbrin/core/device/describe'
import { DeviceError } from '@lumbrin/core/device/errors'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { SourceError } from '@lumbrin/core/io/errors'
import { HangError, inTime } from '@lumbrin/core/io/patience'
import type { Db } from '../database/connection.js'
import { findRead, findSource, moveRead, readsAway } from '../database/sources.js'
import type { Source } from '../domain/source.js'
import { cloudIsThere } from './cloud.js'
import { keysOf } from './keyring.js'
import { hasRoom, isDiskFull } from './space.js'

const PATIENCE_MS = 4000

/** Errors of a line that say that what is at its other end is away for now. */
const DEVICE_AWAY = ['no-multiplexer', 'unplugged', 'silent', 'locked']
const CLOUD_AWAY = ['unreachable', 'busy', 'signed-out']

/**
 * Why a source is away, in words, where that is what an error came from (docs/truth.md, rule 13); undefined: it is there,
 * and the error is about something else.
 */
export async function whyAway(source: Source, thrown: unknown): Promise<string | undefined> {
  if (thrown instanceof DeviceError && DEVICE_AWAY.includes(thrown.code)) return thrown.message
  if (thrown instanceof CloudError && CLOUD_AWAY.includes(thrown.code)) return thrown.message
  if (thrown instanceof SourceError && thrown.code === 'password-needed')
    return 'It is locked, and its password is needed. Type it in the row of the source; it is not kept.'
  if (isDiskFull(thrown))
    return 'The disk with Lumbrin’s own data is full. Make room on it; what was read so far is kept, and the read goes on by itself.'
  if (thrown instanceof HangError)
    return `“${source.path}” does not answer any more. Look at its disk and cable, or plug it in again.`
  if (await isOnDisk(source)) return undefined
  return `“${source.path}” is not there any more. Plug the disk in again, or put the folder back.`
}

/** True where the files of a source can be reached. */
async function isOnDisk({ path, info }: Pick<Source, 'path' | 'info'>): Promise<boolean> {
  const isBackup = info.layout === 'modern' || info.layout === 'legacy'
  const found: Promise<unknown> = isBackup ? listChangedAt(path) : stat(path)
  return (await inTime(found, path, undefined, PATIENCE_MS).catch(() => undefined)) !== undefined
}

/** @throws SourceAway where a source that lies on this computer is gone */
export async function requirePresent(source: Source): Promise<void> {
  if (!(await isOnDisk(source))) throw new SourceAway(`“${source.path}” went away while it was read.`)
}

/** A source went away while it was read. */
export class SourceAway extends Error {
  override readonly name = 'SourceAway'
}

/** Lets reads go on whose sources are back, or were unlocked. */
export async function resumeReturned(db: Db): Promise<void> {
  const away = await readsAway(db)
  if (away.length === 0 || !(await hasRoom())) return
  for (const id of away) {
    const read = await findRead(db, id)
    const source = read && (await findSource(db, read.sourceId))
    if (source && (await isBack(source))) await moveRead(db, id, ['away'], 'queued')
  }
}

async function isBack(source: Source): Promise<boolean> {
  if (!(await isOnDisk(source))) return false
  if (source.info.encrypted && !(await keysOf(source.id))) return false
  if (source.info.layout !== 'collected' || source.info.kind === 'image') return true
  if (source.info.kind === 'device') return deviceIsBack(source)
  return cloudIsThere(source.jobId)
}

async function deviceIsBack(source: Source): Promise<boolean> {
  const { uniqueId } = await new Collection(source.path).header()
  const mux = new Multiplexer(undefined, PATIENCE_MS)
  try {
    const device = (await mux.devices()).find(({ udid }) => udid === uniqueId)
    return device !== undefined && (await describeDevice(mux, device)).state === 'ready'
  } catch (thrown) {
    if (thrown instanceof DeviceError) return false
    throw thrown
  }
}
