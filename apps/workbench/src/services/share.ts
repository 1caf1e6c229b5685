import { createHash, randomInt, timingSafeEqual } from 'node:crypto'
import type { Db } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import type { JobId } from '../domain/ids.js'
import type { NetworkFolderAccess } from '../domain/job.js'
import { requireOpenJob } from './jobs.js'

export const SHARE_USER = 'lumbrin'
const HOURS = 12

// Typed off one screen into another program: nothing that is taken for something else, or for an option of a command.
// 17 out of 56 letters and digits: 98 bits.
const LETTERS = '23456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnpqrstuvwxyz'
const PASSWORD_LENGTH = 17

// After so many wrong passwords nobody is let in for a second, and after each further one for twice as long.
const FREE_FAILURES = 5
const MOST_WAIT_S = 300

interface Open {
  /** Of the password, which itself is kept nowhere. */
  hash: Buffer
  until: number
  failures: number
  /** Until then nobody is let in. */
  shutUntil: number
}

/** What an attempt to log in gives; `shut`: after too many wrong passwords nobody is let in for so many seconds. */
export type Entry = { state: 'open' | 'wrong' } | { state: 'shut'; seconds: number }

const open = new Map<number, Open>()

const newPassword = () => Array.from({ length: PASSWORD_LENGTH }, () => LETTERS[randomInt(LETTERS.length)]).join('')

const hashOf = (password: string) => createHash('sha256').update(password).digest()

/** Opens a job as a network folder under a new one-time password; an earlier one ends with it. */
export async function openShare(db: Db, jobId: JobId): Promise<NetworkFolderAccess> {
  await requireOpenJob(db, jobId)
  const password = newPassword()
  open.set(jobId, { hash: hashOf(password), until: Date.now() + HOURS * 3_600_000, failures: 0, shutUntil: 0 })
  await appendLog(db, jobId, 'Network folder opened', `for at most ${HOURS} hours`)
  return { path: `/dav/${jobId}/`, user: SHARE_USER, password }
}

export async function closeShare(db: Db, jobId: JobId): Promise<void> {
  if (open.delete(jobId)) await appendLog(db, jobId, 'Network folder closed', '')
}

/** Looks at the name and the password (RFC 7617) that somebody comes with to a job's network folder. */
export function entryOf(jobId: JobId, authorization: string | null, now = Date.now()): Entry {
  const share = open.get(jobId)
  const encoded = /^Basic ([A-Za-z0-9+/=]+)$/.exec(authorization ?? '')?.[1]
  // Every client asks once without a password to learn that one is wanted.
  if (!share || !encoded) return { state: 'wrong' }
  if (now > share.until) {
    open.delete(jobId)
    return { state: 'wrong' }
  }
  if (now < share.shutUntil) return { state: 'shut', seconds: Math.ceil((share.shutUntil - now) / 1000) }
  const [user, ...rest] = Buffer.from(encoded, 'base64').toString('utf8').split(':')
  if (user === SHARE_USER && timingSafeEqual(share.hash, hashOf(rest.join(':')))) {
    share.failures = 0
    return { state: 'open' }
  }
  share.failures++
  const wait = Math.min(MOST_WAIT_S, 2 ** (share.failures - FREE_FAILURES))
  if (share.failures >= FREE_FAILURES) share.shutUntil = now + 1000 * wait
  return { state: 'wrong' }
}
