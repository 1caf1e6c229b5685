import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { listHandovers, moveHandover } from '../../apps/workbench/src/database/handovers.js'
import { asId } from '../../apps/workbench/src/database/json.js'
import { findRead, listReads, listSources, moveRead } from '../../apps/workbench/src/database/sources.js'
import { addToTray } from '../../apps/workbench/src/database/tray.js'
import { brief as briefSchema } from '../../apps/workbench/src/domain/brief.js'
import type { FindingId, JobId, ReadId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { runHandover } from '../../apps/workbench/src/services/handing-over.js'
import { startHandover } from '../../apps/workbench/src/services/handovers.js'
import { openJob, requireJob } from '../../apps/workbench/src/services/jobs.js'
import { beginUnlock, lockState } from '../../apps/workbench/src/services/keyring.js'
import { resumeReturned } from '../../apps/workbench/src/services/presence.js'
import { purgeJob, purgeLeftOver } from '../../apps/workbench/src/services/purging.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { addSource, resumeRead, startRead, tryAgain } from '../../apps/workbench/src/services/sources.js'
import type { Doors, Fault } from './doors.js'

/** A source of the job, with its password. */
export interface FaultSource {
  folder: string
  password: string | null
}

const CATEGORIES: CategoryId[] = ['contacts', 'photos']
const MOST_ROUNDS = 6

/** What came of a job in which one call failed. */
export interface JobResult {
  /** Calls that met a door. */
  calls: number
  /** The one that failed; null: the fault came too late to be met. */
  met: string | null
  /** What is wrong with it, in words; empty: it held. */
  wrong: string[]
  /** What was found, and what was handed over, as text to be compared. */
  found: string
  handedOver: string
}

/**
 * A whole job from its first source to its purge, in which one call to files or to the database fails. Whatever that was:
 * states are honest, and after going on as a user would the result is the one of a job without faults.
 */
export class WholeJob {
  readonly #wrong: string[] = []
  #jobId = 0 as JobId

  /** `folder`: where the job keeps its data and writes its package. */
  constructor(
    readonly db: Db,
    readonly doors: Doors,
    readonly sources: readonly FaultSource[],
    readonly folder: string,
  ) {}

  get #package(): string {
    return join(this.folder, 'handover', 'package')
  }

  async run(fault: Fault, n: number): Promise<JobResult> {
    const data = join(this.folder, 'data')
    mkdirSync(join(this.folder, 'handover'), { recursive: true })
    mkdirSync(data, { recursive: true })
    process.env.LUMBRIN_DATA = data
    process.env.LUMBRIN_ROOTS = join(this.folder, 'handover')
    const brief = briefSchema.parse({ owner: 'Odile Varga', categories: CATEGORIES })
    this.#jobId = (await openJob(this.db, brief)).id
    this.doors.arm([this.folder, ...this.sources.map(({ folder }) => folder)], fault, n)
    await this.#goOn('reading', () => this.#read())
    const found = await this.doors.aside(() => this.#found())
    await this.#goOn('handing over', () => this.#handOver())
    const handedOver = await this.doors.aside(async () => this.#handedOver())
    await this.#goOn('purging', () => this.#purge())
    const { calls, met } = this.doors.disarm()
    await this.#expectPurged()
    rmSync(this.folder, { recursive: true, force: true })
    return { calls, met, wrong: this.#wrong, found, handedOver }
  }

  /** Does something again, as a user would, until it is done. What is thrown must be for a user to read. */
  async #goOn(what: string, work: () => Promise<boolean>): Promise<void> {
    for (let round = 0; round < MOST_ROUNDS; round++)
      try {
        if (await work()) return
      } catch (thrown) {
        const { message = '', stack = '' } = thrown as Error
        if (/insert into|select |update `/i.test(message))
          this.#say(`${what}: an error shows SQL: ${message.slice(0, 200)}`)
        if (thrown instanceof TypeError || thrown instanceof RangeError) this.#say(`${what}: ${stack.slice(0, 600)}`)
      }
    this.#say(`${what} comes to no end`)
  }

  #say(words: string): void {
    this.#wrong.push(words)
  }

  async #read(): Promise<boolean> {
    const known = await listSources(this.db, this.#jobId)
    for (const { folder } of this.sources)
      if (!known.some(({ path }) => path === folder)) await addSource(this.db, this.#jobId, folder)
    let ended = true
    for (const { id, path, info } of await listSources(this.db, this.#jobId)) {
      const password = this.sources.find(({ folder }) => folder === path)?.password
      if (info.encrypted && password) await this.#unlock(id, password)
      ended = (await this.#readSource(id)) && ended
    }
    return ended
  }

  async #unlock(source: SourceId, password: string): Promise<void> {
    if (lockState(source).state === 'open') return
    await beginUnlock(this.db, source, password)
    while (lockState(source).state === 'opening') await sleep(2)
  }

  /** True once the source is read as far as it goes. */
  async #readSource(source: SourceId): Promise<boolean> {
    const reads = (await listReads(this.db, this.#jobId)).filter(({ sourceId }) => sourceId === source)
    const [last] = reads
    if (last?.state === 'done') return true
    const id = await this.#queue(source, last?.id, last?.state)
    await claimWork(this.db, 'reads', 'fault:1')
    try {
      await runRead(this.db, id, new AbortController().signal)
    } catch (thrown) {
      // As a reader that ends is followed by a new one.
      await moveRead(this.db, id, ['running', 'stopping'], 'queued')
      throw thrown
    }
    const { state, error, steps } = (await findRead(this.db, id)) ?? {}
    if (state === 'failed' && !error) this.#say('a read failed and does not say why')
    if (error && /insert into|select /i.test(error)) this.#say(`a read shows SQL: ${error.slice(0, 200)}`)
    if (state === 'done' && steps?.some(({ account }) => !account)) this.#say('a read is done without an account')
    return state === 'done'
  }

  async #queue(source: SourceId, last: ReadId | undefined, state: string | undefined): Promise<ReadId> {
    if (last === undefined) return startRead(this.db, source, { categories: CATEGORIES, passes: ['live', 'residue'] })
    if (state === 'gaps') return tryAgain(this.db, source)
    if (state === 'away') await resumeReturned(this.db)
    if (state === 'running') await moveRead(this.db, last, ['running'], 'queued')
    if (['failed', 'stopped', 'away'].includes((await findRead(this.db, last))?.state ?? ''))
      await resumeRead(this.db, last)
    return last
  }

  /** Every sighting and how its finding stands, without the numbers that each database gives. */
  async #found(): Promise<string> {
    const rows = await this.db('sightings')
      .join('findings', 'findings.id', 'sightings.finding_id')
      .join('sources', 'sources.id', 'sightings.source_id')
      .where('findings.job_id', this.#jobId)
      .select(
        'sources.path',
        'sightings.category',
        'sightings.pass',
        'sightings.ordinal',
        'sightings.title',
        'sightings.content_state',
        'findings.standing',
      )
      .orderBy(['sources.path', 'sightings.category', 'sightings.pass', 'sightings.ordinal'])
    return rows.map((row) => Object.values(row).join(' | ')).join('\n')
  }

  async #handOver(): Promise<boolean> {
    const ids = (await this.db('findings').where({ job_id: this.#jobId }).pluck('id')).map(asId<FindingId>)
    await addToTray(this.db, this.#jobId, ids)
    const [last] = await listHandovers(this.db, this.#jobId)
    if (last?.state === 'done' && !last.summary?.missed) return true
    const to = { kind: 'folder' as const, folder: this.#package }
    const waits = last && ['queued', 'running', 'stopping'].includes(last.state)
    const id = waits ? last.id : await startHandover(this.db, this.#jobId, to)
    if (last?.state === 'running') await moveHandover(this.db, id, ['running'], 'queued')
    await claimWork(this.db, 'handovers', 'fault:1')
    await runHandover(this.db, id, new AbortController().signal)
    const now = (await listHandovers(this.db, this.#jobId)).find((one) => one.id === id)
    if (now?.state === 'done' && !existsSync(join(this.#package, 'manifest-sha256.txt')))
      this.#say('a handover is done, and there is no package')
    if (now?.state === 'failed' && !now.error) this.#say('a handover failed and does not say why')
    // What could not be written is listed, and comes with the next one.
    return now?.state === 'done' && !now.summary?.missed
  }

  /** What lies in the package, by its own list, each file compared with its checksum. */
  #handedOver(): string {
    const manifest = join(this.#package, 'manifest-sha256.txt')
    if (!existsSync(manifest)) return 'nothing'
    const lines = readFileSync(manifest, 'utf8').trim().split('\n')
    for (const line of lines) {
      const [sum, path = ''] = line.split('  ')
      const bytes = existsSync(join(this.#package, path)) ? readFileSync(join(this.#package, path)) : Buffer.alloc(0)
      if (createHash('sha256').update(bytes).digest('hex') !== sum) this.#say(`${path} is not as its list says`)
    }
    const beside = readdirSync(join(this.folder, 'handover')).filter((name) => name !== 'package')
    if (beside.length > 0) this.#say(`beside the package lies ${beside.join(', ')}`)
    // Pages that tell numbers and times of this job differ from job to job.
    return lines
      .map((line) => line.split('  '))
      .filter(([, path = '']) => !/index\.|report|provenance/.test(path))
      .map(([sum, path]) => `${path} ${/\.(jpg|jpeg|png|heic)$/i.test(path ?? '') ? sum : ''}`)
      .sort()
      .join('\n')
  }

  async #purge(): Promise<boolean> {
    const job = await requireJob(this.db, this.#jobId)
    if (job.purgedAt) return true
    await purgeLeftOver(this.db)
    if ((await requireJob(this.db, this.#jobId)).purgedAt) return true
    await purgeJob(this.db, this.#jobId, job.number)
    return true
  }

  async #expectPurged(): Promise<void> {
    for (const table of ['sightings', 'findings', 'sources', 'reads'] as const) {
      const column = table === 'sightings' ? 'sightings.job_id' : 'job_id'
      const row = await this.db(table).where(column, this.#jobId).first(this.db.raw('1'))
      if (row) this.#say(`after the purge there is something left in ${table}`)
    }
    const left = readdirSync(join(this.folder, 'data'), { recursive: true, withFileTypes: true })
    const files = left.filter((entry) => entry.isFile() && entry.parentPath.includes(`job-${this.#jobId}`))
    if (files.length > 0) this.#say(`after the purge ${files.length} files are left`)
  }
}
