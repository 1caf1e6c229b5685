import { type Fingerprint, fingerprintOf } from '@lumbrin/core/backup/fingerprint'
import type { SourceTree } from '@lumbrin/core/backup/types'
import type { Profile } from '@lumbrin/core/categories/chats/profile'
import { readStep } from '@lumbrin/core/categories/read'
import type { Sighting } from '@lumbrin/core/categories/types'
import { messageOf, type Warning } from '@lumbrin/core/io/errors'
import { beat } from '../database/claims.js'
import type { Db } from '../database/connection.js'
import { storeBatch } from '../database/findings.js'
import { appendLog } from '../database/jobs.js'
import { findRead, findSource, moveRead, type ReadRow, type StepRow } from '../database/sources.js'
import { restandCategory } from '../database/standings.js'
import { AppError } from '../errors.js'
import { ReadableSource } from './collecting.js'
import { ownProfiles } from './profiles.js'

const BATCH_ROWS = 500
// Results show up while the read runs: a batch is stored when it is this old, however small.
const BATCH_MS = 400
const MAX_WARNINGS = 200

/** Runs a claimed read to its end, to its stop, or to the error that is stored with it. */
export async function runRead(db: Db, readId: number, signal: AbortSignal): Promise<void> {
  const read = await findRead(db, readId)
  const source = read && (await findSource(db, read.sourceId))
  if (!read || !source) throw new AppError('not-found', `read ${readId} or its source is gone`)
  const warnings = new Warnings(read.warnings)
  const { profiles } = await ownProfiles()
  let readable: ReadableSource | undefined
  try {
    readable = await ReadableSource.open(db, read, source, warnings.add, profiles, signal)
    const before = readable.fetches ? undefined : await fingerprintOf(readable.tree)
    const ended = await runSteps(new ReadRun(db, read, readable, warnings, signal, profiles))
    if (before) await logUntouched(db, read, readable.tree, before)
    await warnings.store(db, readId)
    if (ended === 'done' && (await moveRead(db, readId, ['running', 'stopping'], 'done'))) await logEnd(db, read)
    if (ended === 'stopped') await moveRead(db, readId, ['running', 'stopping'], signal.aborted ? 'queued' : 'stopped')
  } catch (thrown) {
    await warnings.store(db, readId)
    // What was stopped amid fetching ends with an error of the line that was cut: that is no failure.
    if (await moveRead(db, readId, ['stopping'], 'stopped')) return
    if (signal.aborted && (await moveRead(db, readId, ['running'], 'queued'))) return
    await moveRead(db, readId, ['running', 'stopping'], 'failed', { error: messageOf(thrown) })
    await appendLog(db, read.jobId, 'Read failed', messageOf(thrown))
  } finally {
    await readable?.close()
  }
}

/** Puts on record that the source is what it was before the read. */
async function logUntouched(db: Db, read: ReadRow, tree: SourceTree, before: Fingerprint): Promise<void> {
  const after = await fingerprintOf(tree)
  if (after.sha256 === before.sha256)
    await appendLog(
      db,
      read.jobId,
      'Source unchanged',
      `SHA-256 over ${after.files} lists and databases, before and after: ${after.sha256}`,
    )
  else
    await appendLog(
      db,
      read.jobId,
      'Source changed during the read',
      `Another program wrote to it. SHA-256 before: ${before.sha256}, after: ${after.sha256}`,
    )
}

async function logEnd(db: Db, read: ReadRow): Promise<void> {
  const steps = (await findRead(db, read.id))?.steps ?? []
  await appendLog(
    db,
    read.jobId,
    'Read done',
    steps.map((step) => `${step.category} (${step.pass}): ${step.done}`).join(', '),
  )
}

async function runSteps(run: ReadRun): Promise<'done' | 'stopped'> {
  for (const step of run.read.steps) {
    if (step.finished) continue
    await run.source.prepare(step.category)
    if ((await run.step(step)) === 'stopped') return 'stopped'
    // First, since a step that is finished is not come back to after a crash.
    await restandCategory(run.db, run.read.jobId, step.category, run.read.sourceId)
    await run.db('read_steps').where({ id: step.id }).update({ finished: true })
  }
  await run.source.fetchContents()
  return 'done'
}

class ReadRun {
  constructor(
    readonly db: Db,
    readonly read: ReadRow,
    readonly source: ReadableSource,
    readonly warnings: Warnings,
    readonly signal: AbortSignal,
    readonly profiles: readonly Profile[],
  ) {}

  /** Reads one step from where it was left: the first `done` sightings are stored already and passed over. */
  async step(step: StepRow): Promise<'done' | 'stopped'> {
    let done = step.done
    let position = 0
    let batch: Sighting[] = []
    let since = Date.now()
    const store = async () => {
      if (batch.length > 0)
        await storeBatch(
          this.db,
          batch,
          {
            jobId: this.read.jobId,
            sourceId: this.read.sourceId,
            category: step.category,
            pass: step.pass,
            first: done,
          },
          step,
        )
      done += batch.length
      batch = []
      since = Date.now()
      return this.#mayGoOn()
    }
    for await (const sighting of readStep(this.source.tree, step, this.warnings.add, this.profiles)) {
      if (position++ < step.done) continue
      batch.push(sighting)
      if (batch.length < BATCH_ROWS && Date.now() - since < BATCH_MS) continue
      if (!(await store())) return 'stopped'
    }
    return (await store()) ? 'done' : 'stopped'
  }

  async #mayGoOn(): Promise<boolean> {
    await beat(this.db, 'reads', this.read.id)
    await this.warnings.store(this.db, this.read.id)
    const row = await this.db('reads').where({ id: this.read.id }).first('state')
    return row?.state === 'running' && !this.signal.aborted
  }
}

/** The warnings of a read, each once. */
class Warnings {
  readonly #list: Warning[]
  #stored: number

  constructor(earlier: readonly Warning[]) {
    this.#list = [...earlier]
    this.#stored = earlier.length
  }

  readonly add = (warning: Warning): void => {
    const known = this.#list.some((one) => one.message === warning.message && one.path === warning.path)
    if (!known && this.#list.length < MAX_WARNINGS) this.#list.push(warning)
  }

  async store(db: Db, readId: number): Promise<void> {
    if (this.#list.length === this.#stored) return
    this.#stored = this.#list.length
    await db('reads')
      .where({ id: readId })
      .update({ warnings: JSON.stringify(this.#list) })
  }
}
