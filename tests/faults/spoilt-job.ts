import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { CATEGORY_IDS } from '@lumbrin/core/categories/registry'
import { PASSES } from '@lumbrin/core/categories/types'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { listHandovers } from '../../apps/workbench/src/database/handovers.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import { AppError } from '../../apps/workbench/src/domain/errors.js'
import type { JobId } from '../../apps/workbench/src/domain/ids.js'
import { openFindingContent } from '../../apps/workbench/src/services/content.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { startHandover } from '../../apps/workbench/src/services/handovers.js'
import { openJob, requireJob } from '../../apps/workbench/src/services/jobs.js'
import { purgeJob } from '../../apps/workbench/src/services/purging.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { EDGES, pictureOf } from '../../apps/workbench/src/services/thumbnails.js'

/** Errors with words for a user; any other is a fault of ours. */
const FOR_USERS = ['AppError', 'FormatError', 'SourceError']
const MOST_LOOKED_AT = 40
const LARGEST = 1e9

/** A job over a backup that was spoilt: it is read whole, looked at, handed over and purged. */
export class SpoiltJob {
  readonly #wrong: string[] = []

  constructor(
    readonly db: Db,
    readonly backup: string,
    readonly folder: string,
  ) {}

  /** @returns what is wrong with how it went, in words; empty: nothing */
  async run(): Promise<string[]> {
    const { db } = this
    const job = await openJob(db, briefSchema.parse({ owner: 'Odile Varga' }))
    try {
      const source = await addSource(db, job.id, this.backup)
      const read = await startRead(db, source, { categories: CATEGORY_IDS, passes: PASSES })
      await claimWork(db, 'reads', 'spoilt:1')
      await runRead(db, read, new AbortController().signal)
      const { state, error, steps } = (await findRead(db, read)) ?? {}
      if (state !== 'gaps' && state !== 'done') this.#wrong.push(`the read is ${state}: ${error}`)
      if (steps?.some(({ account }) => !account)) this.#wrong.push('a step has no account')
      await this.#lookAt(job.id)
      await this.#handOver(job.id)
      await purgeJob(db, job.id, (await requireJob(db, job.id)).number)
    } catch (thrown) {
      this.#wrong.push((thrown as Error).stack ?? String(thrown))
    }
    return this.#wrong
  }

  /** Opens contents and shows pictures, as scrolling through the findings does. */
  async #lookAt(job: JobId): Promise<void> {
    const ids = await this.db('findings')
      .where({ job_id: job, content_state: 'present' })
      .whereIn('category', ['photos', 'app-pictures', 'videos', 'strays'])
      .orderByRaw('CRC32(id)')
      .limit(MOST_LOOKED_AT)
      .pluck('id')
    for (const id of ids)
      await pictureOf(`${job} ${id}`, async () => (await openFindingContent(this.db, id)).source, EDGES.tile).catch(
        (thrown: Error) => {
          if (!FOR_USERS.includes(thrown.name) && !(thrown instanceof AppError))
            this.#wrong.push(`content of ${id}: ${thrown.stack}`)
        },
      )
  }

  async #handOver(job: JobId): Promise<void> {
    // No disk takes a terabyte: whoever hands over takes it out of the tray.
    const ids = (
      await this.db('findings')
        .join('sightings', 'sightings.id', 'findings.best_sighting_id')
        .where('findings.job_id', job)
        .whereRaw(`COALESCE(JSON_VALUE(sightings.content, '$.bytes'), 0) < ${LARGEST}`)
        .pluck('findings.id')
    ).map(Number)
    for (let at = 0; at < ids.length; at += 5000) await addToTray(this.db, job, ids.slice(at, at + 5000))
    if (ids.length === 0) return
    const to = join(this.folder, 'package')
    const id = await startHandover(this.db, job, { kind: 'folder', folder: to })
    await claimWork(this.db, 'handovers', 'spoilt:1')
    await runHandover(this.db, id, new AbortController().signal)
    const [last] = await listHandovers(this.db, job)
    if (last?.state !== 'done') this.#wrong.push(`the handover is ${last?.state}: ${last?.error}`)
    else execFileSync('sha256sum', ['--strict', '--quiet', '-c', 'manifest-sha256.txt'], { cwd: to })
  }
}
