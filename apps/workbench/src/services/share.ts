import { createHash, randomBytes, timingSafeEqual } from 'node:crypto'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import type { JobId } from '../domain/ids.js'
import type { NetworkFolderAccess } from '../domain/job.js'
import { requireOpenJob } from './jobs.js'

export const SHARE_USER = 'lumbrin'
const HOURS = 12

interface Open {
  /** Of the password, which itself is kept nowhere. */
  hash: Buffer
  until: number
}

const open = new Map<number, Open>()

const hashOf = (password: string) => createHash('sha256').update(password).digest()

/** Opens a job as a network folder under a new one-time password; an earlier one ends with it. */
export async function openShare(db: Db, jobId: JobId): Promise<NetworkFolderAccess> {
  await requireOpenJob(db, jobId)
  const password = randomBytes(12).toString('base64url')
  open.set(jobId, { hash: hashOf(password), until: Date.now() + HOURS * 3_600_000 })
  await appendLog(db, jobId, 'Network folder opened', `for at most ${HOURS} hours`)
  return { path: `/dav/${jobId}/`, user: SHARE_USER, password }
}

export async function closeShare(db: Db, jobId: JobId): Promise<void> {
  if (open.delete(jobId)) await appendLog(db, jobId, 'Network folder closed', '')
}

/** True for the right name and password (RFC 7617) of a job's network folder that is open. */
export function mayEnter(jobId: JobId, authorization: string | null): boolean {
  const share = open.get(jobId)
  const encoded = /^Basic ([A-Za-z0-9+/=]+)$/.exec(authorization ?? '')?.[1]
  if (!share || !encoded) return false
  if (Date.now() > share.until) {
    open.delete(jobId)
    return false
  }
  const [user, ...rest] = Buffer.from(encoded, 'base64').toString('utf8').split(':')
  return user === SHARE_USER && timingSafeEqual(share.hash, hashOf(rest.join(':')))
}
