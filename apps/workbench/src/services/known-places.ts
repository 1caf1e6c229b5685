import type { FoundBackup } from '@lumbrin/core/backup/discover'
import type { Db } from '../database/connection.js'
import { searchForBackups } from './sources.js'

// A search walks whole folders: what it found is good for a while, and nobody waits for it longer than this.
const FRESH_MS = 60_000
const WAIT_MS = 1500
const MOST = 500

let found: FoundBackup[] = []
let searchedAt = 0
let searching: Promise<void> | undefined

/** Backups that lie on this computer, as far as they were found by now; the search goes on behind it. */
export async function backupsHere(db: Db): Promise<FoundBackup[]> {
  if (Date.now() - searchedAt > FRESH_MS)
    searching ??= search(db).finally(() => {
      searching = undefined
      searchedAt = Date.now()
    })
  if (searching && searchedAt === 0) await Promise.race([searching, new Promise((go) => setTimeout(go, WAIT_MS))])
  return found
}

async function search(db: Db): Promise<void> {
  const now: FoundBackup[] = []
  for await (const step of searchForBackups(db, null, AbortSignal.timeout(FRESH_MS)))
    if ('backup' in step && now.length < MOST) now.push(step.backup)
  found = now
}
