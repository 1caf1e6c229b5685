import { type Fingerprint, fingerprintOf } from '@lumbrin/core/backup/fingerprint'
import type { SourceTree } from '@lumbrin/core/backup/types'
import type { Profile } from '@lumbrin/core/categories/chats/profile'
import { messageOf, type Warning } from '@lumbrin/core/io/errors'
import { countMatches } from '../database/answers.js'
import { beat } from '../database/claims.js'
import { type Db, isConnectionLoss } from '../database/connection.js'
import { appendLog } from '../database/log.js'
import { dateStep, findRead, findSource, finishStep, isRunning, keepWarnings, moveRead } from '../database/sources.js'
import { restandCategory } from '../database/standings.js'
import { AppError } from '../domain/errors.js'
import { formatCount, plural } from '../domain/format.js'
import type { ReadId } from '../domain/ids.js'
import { stepWords } from '../domain/labels.js'
import type { Read, Source, StepRow } from '../domain/source.js'
import { closeAccounts } from './accounts.js'
import { ReadableSource } from './collecting.js'
import { whyAway } from './presence.js'
import { ownProfiles } from './profiles.js'
import { StepRun } from './reading-step.js'

const MAX_WARNINGS = 200

/**
 * Runs a claimed read to its end, to its stop, to where its source went away, or to the error that is stored with it.
 * @throws the database's error when it is away: the read is where it was
 */
export async function runRead(db: Db, readId: ReadId, signal: AbortSignal): Promise<void> {
  const read = await findRead(db, readId)
  const source = read && (await findSource(db, read.sourceId))
  if (!read || !source) throw new AppError('not-found', `read ${readId} or its source is gone`)
  const warnings = new Warnings(read.warnings)
  const { profiles } = await ownProfiles()
  let readable: ReadableSource | undefined
  try {
    readable = await ReadableSource.open(db, read, source, warnings.add, profiles, signal)
    const before = readable.fetches ? undefined : await fingerprintOf(readable.tree)
    const ended = await runSteps(new ReadRun(db, read, source, readable, warnings, signal, profiles))
    if (before && ended === 'done') await logUntouched(db, read, readable.tree, before)
    await warnings.store(db, readId)
    if (ended === 'done') await endRead(db, read)
    else await moveRead(db, readId, ['running', 'stopping'], signal.aborted ? 'queued' : 'stopped')
  } catch (thrown) {
    if (isConnectionLoss(thrown)) throw thrown
    await warnings.store(db, readId)
    await endBadly(db, read, source, thrown, signal)
  } finally {
    await readable?.close()
  }
}

async function endBadly(db: Db, read: Read, source: Source, thrown: unknown, signal: AbortSignal): Promise<void> {
  // What was stopped amid fetching ends with an error of the line that was cut: that is no failure.
  if (await moveRead(db, read.id, ['stopping'], 'stopped')) return
  if (signal.aborted && (await moveRead(db, read.id, ['running'], 'queued'))) return
  const away = await whyAway(source, thrown)
  const why = away ?? messageOf(thrown)
  if (away) await moveRead(db, read.id, ['running', 'stopping'], 'away', { waits_for: away })
  else await moveRead(db, read.id, ['running', 'stopping'], 'failed', { error: why })
  await appendLog(db, read.jobId, away ? 'Read waits for its source' : 'Read failed', why)
}

/** Closes the account of a read: it is done only where nothing is left that another try might bring. */
async function endRead(db: Db, { id }: Read): Promise<void> {
  const read = await findRead(db, id)
  if (!read) return
  const closed = await closeAccounts(db, read)
  if (await moveRead(db, id, ['running', 'stopping'], closed ? 'done' : 'gaps')) await logEnd(db, read, closed)
}

/** Puts on record that the source is what it was before the read. */
async function logUntouched(db: Db, read: Read, tree: SourceTree, before: Fingerprint): Promise<void> {
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

async function logEnd(db: Db, read: Read, closed: boolean): Promise<void> {
  await appendLog(
    db,
    read.jobId,
    closed ? 'Read done' : 'Read done with gaps',
    read.steps.map((step) => `${stepWords(step)}: ${formatCount(step.done)}`).join(', '),
  )
}

async function runSteps(run: ReadRun): Promise<'done' | 'stopped'> {
  for (const step of run.read.steps) {
    if (step.finished) continue
    await run.source.prepare(step.category)
    if ((await run.step(step)) === 'stopped') return 'stopped'
    // Only a live pass that ended says by its silence what is gone. A step that is finished is not come back to after a
    // crash, so that this is done before.
    if (step.pass === 'live') await restandCategory(run.db, run.read.jobId, step.category, run.read.sourceId)
    await finishStep(run.db, step.id)
  }
  await run.source.fetchContents()
  return 'done'
}

class ReadRun {
  constructor(
    readonly db: Db,
    readonly read: Read,
    readonly row: Source,
    readonly source: ReadableSource,
    readonly warnings: Warnings,
    readonly signal: AbortSignal,
    readonly profiles: readonly Profile[],
  ) {}

  async step(step: StepRow): Promise<'done' | 'stopped'> {
    const { db, read, row, profiles } = this
    const { tree, listDamaged } = this.source
    await dateStep(db, step.id, await this.source.dateOf(step.category))
    const mayGoOn = () => this.#mayGoOn()
    return new StepRun({ db, read, row, tree, profiles, listDamaged, report: this.warnings.add, mayGoOn }, step).run()
  }

  async #mayGoOn(): Promise<boolean> {
    await beat(this.db, 'reads', this.read.id)
    await this.warnings.store(this.db, this.read.id)
    return (await isRunning(this.db, this.read.id)) && !this.signal.aborted && !(await this.#isEnough())
  }

  /** Whether as many matches are there as were asked for: then the read stops, and can go on like any that was stopped. */
  async #isEnough(): Promise<boolean> {
    const { id, jobId, enough } = this.read
    if (enough === null) return false
    const counts = await countMatches(this.db, jobId, 'gone')
    const found = counts.reduce((sum, { count }) => sum + count, 0)
    if (found < enough) return false
    if (await moveRead(this.db, id, ['running'], 'stopping'))
      await appendLog(this.db, jobId, 'Read stopped', `${plural(found, 'match is', 'matches are')} there: enough.`)
    return true
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

  async store(db: Db, readId: ReadId): Promise<void> {
    if (this.#list.length === this.#stored) return
    this.#stored = this.#list.length
    await keepWarnings(db, readId, this.#list)
  }
}
