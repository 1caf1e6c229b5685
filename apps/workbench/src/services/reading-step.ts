import { setImmediate } from 'node:timers/promises'
import type { SourceTree } from '@lumbrin/core/backup/types'
import { StepAccountant } from '@lumbrin/core/categories/account'
import type { Profile } from '@lumbrin/core/categories/chats/profile'
import { contentStateOf } from '@lumbrin/core/categories/content-state'
import { readStep } from '@lumbrin/core/categories/read'
import type { StepAccount } from '@lumbrin/core/categories/step-account'
import type { Report } from '@lumbrin/core/io/errors'
import type { Db } from '../database/connection.js'
import { countStored, removeBehind, storeWhatIsTaken } from '../database/findings.js'
import { type Prepared, prepare } from '../database/sighting-rows.js'
import { keepAccount } from '../database/sources.js'
import type { Read, Source, StepRow } from '../domain/source.js'
import { requirePresent } from './presence.js'

const BATCH_ROWS = 500
// Results show up while the read runs: a batch is stored when it is this old, however small.
const BATCH_MS = 400
const LISTEN_EVERY = 25

/** What a step is read of, and with. */
export interface StepContext {
  db: Db
  read: Read
  row: Source
  tree: SourceTree
  profiles: readonly Profile[]
  /** Part of the source's list could not be read. */
  listDamaged: boolean
  report: Report
  /** Says that the read lives, and learns whether it may go on. */
  mayGoOn: () => Promise<boolean>
}

/** Somebody stops the read. */
class Stopped extends Error {}

/** One step of a read. It resumes where an earlier run ended: the first `step.done` sightings are stored and skipped. */
export class StepRun {
  readonly #accountant: StepAccountant
  #batch: Prepared[] = []
  /** The batch before, while it is stored: the next is read meanwhile. */
  #storing: Promise<void> = Promise.resolve()
  #done: number
  #since = Date.now()

  constructor(
    readonly context: StepContext,
    readonly step: StepRow,
  ) {
    const { tree, report, profiles, listDamaged } = context
    this.#accountant = new StepAccountant(tree, step, report, profiles, listDamaged)
    this.#done = step.done
  }

  /** Reads to the end and keeps the account, or to where somebody stops it. */
  async run(): Promise<'done' | 'stopped'> {
    try {
      try {
        await this.#readAll()
      } finally {
        // However reading ends: what was read before is stored first, and what goes wrong there comes first.
        await this.#storing
      }
      await this.#close()
      return 'done'
    } catch (thrown) {
      if (thrown instanceof Stopped) return 'stopped'
      throw thrown
    }
  }

  async #readAll(): Promise<void> {
    const { tree, profiles } = this.context
    let position = 0
    for await (const sighting of readStep(tree, this.step, this.#accountant.report, { profiles, pulse: this.#pulse })) {
      const content = await contentStateOf(tree, sighting)
      this.#accountant.item(content)
      if (position++ < this.step.done) continue
      this.#batch.push(prepare({ sighting, content }))
      if (this.#batch.length >= BATCH_ROWS || this.#isOld()) await this.#handOn()
      // Answers of the database are heard only in between.
      else if (this.#batch.length % LISTEN_EVERY === 0) await setImmediate()
    }
    await this.#handOn()
  }

  /** Begins to store the batch as soon as the one before is stored. */
  async #handOn(): Promise<void> {
    await this.#storing
    const batch = this.#batch
    this.#batch = []
    this.#since = Date.now()
    this.#storing = this.#store(batch)
    // What goes wrong is told where the next batch waits for it.
    this.#storing.catch(() => {})
  }

  #isOld(): boolean {
    return Date.now() - this.#since >= BATCH_MS
  }

  async #store(batch: readonly Prepared[]): Promise<void> {
    const { db, row, read } = this.context
    // What is missing from a source that went away is not missing in it.
    await requirePresent(row)
    if (batch.length > 0) await storeWhatIsTaken(db, batch, this.#origin(), this.step, read.mode === 'again')
    this.#done += batch.length
    await this.#requireGoingOn()
  }

  /** Called where a search finds nothing for long. */
  readonly #pulse = async (): Promise<void> => {
    if (this.#isOld()) await this.#handOn()
  }

  async #requireGoingOn(): Promise<void> {
    if (!(await this.context.mayGoOn())) throw new Stopped()
  }

  async #close(): Promise<void> {
    const { db, read } = this.context
    this.#accountant.notStored(this.#done - (await countStored(db, this.#origin())))
    const account = this.#accountant.account()
    if (read.mode === 'again' && isWhole(account)) await removeBehind(db, this.#origin())
    await keepAccount(db, this.step.id, account)
  }

  #origin() {
    const { jobId, sourceId } = this.context.read
    const { category, pass } = this.step
    return { jobId, sourceId, category, pass, first: this.#done }
  }
}

/** Every store was read to its end: what was not seen this time is not there. */
const isWhole = ({ stores }: StepAccount) => Object.values(stores).every((state) => state === 'whole')
