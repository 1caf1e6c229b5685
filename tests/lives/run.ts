import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import type { CategoryId, Pass } from '@lumbrin/core/categories/types'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { pair } from '@lumbrin/core/device/pairing'
import { StandInDevice } from '@lumbrin/standins/device/device'
import { BackupFiles } from '@lumbrin/standins/device/files'
import { StandInMultiplexer } from '@lumbrin/standins/device/multiplexer'
import { Random } from '@lumbrin/standins/random'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { findRead, listReads, listSources } from '../../apps/workbench/src/database/sources.js'
import { jobDevices } from '../../apps/workbench/src/database/states.js'
import { briefSchema } from '../../apps/workbench/src/services/brief.js'
import { openFindingContent } from '../../apps/workbench/src/services/content.js'
import { sayDeviceRole } from '../../apps/workbench/src/services/devices.js'
import { restoreCost } from '../../apps/workbench/src/services/differences.js'
import { openJob } from '../../apps/workbench/src/services/jobs.js'
import { beginUnlock, lockState } from '../../apps/workbench/src/services/keyring.js'
import { resumeReturned } from '../../apps/workbench/src/services/presence.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { jobRoute } from '../../apps/workbench/src/services/route.js'
import { addDevice, addSource, startRead } from '../../apps/workbench/src/services/sources.js'
import { type Capture, captureAll, holdsContent, leavesOut, takeAway } from './capture.js'
import { BEGIN, DAY, type Life, type LifeCategory, type LifeItem, makeLife, SPAN, stateOn } from './life.js'
import { canBeHad, expected, type KnownState, mustShow, type Seen } from './oracle.js'
import { contentOf, contentPlace } from './stores.js'

/** What a life came to: how many claims were compared, and those that were wrong, in words. */
export interface Outcome {
  claims: number
  wrong: string[]
}

/** Lives one life: its devices are captured, read twice in different orders, and every claim is compared. */
export async function live(db: Db, seed: number, folder: string): Promise<Outcome> {
  const random = new Random(seed)
  const life = makeLife(random, seed)
  const captures = await captureAll(random, life, folder)
  const outcome: Outcome = { claims: 0, wrong: [] }
  const categories = [...new Set(life.items.map(({ category }) => category))]
  const unread = categories.filter(() => random.chance(0.1))
  const wanted = categories.filter((category) => random.chance(0.6) || category === categories[0])
  const claims: Map<string, string>[] = []
  for (let order = 0; order < 2; order++) {
    const job = new LivedJob(db, new Random(seed * 31 + order), life, captures, outcome)
    await job.open(wanted)
    // One source is not read for some categories, in neither order.
    await job.read(categories, captures[0] as Capture, unread)
    claims.push(await job.compare())
    await job.close()
  }
  const [first, second] = claims
  for (const [name, claim] of first ?? [])
    if (second?.get(name) !== claim) outcome.wrong.push(`${name}: ${claim}, in another order ${second?.get(name)}`)
  return outcome
}

class LivedJob {
  jobId = 0
  #wanted: readonly LifeCategory[] = []
  /** Sources by their captures. */
  readonly #sources = new Map<Capture, number>()
  readonly #skipped = new Set<string>()
  readonly #dates = new Map<string, Map<number, number>>()
  /** The phone on the cable; undefined: none is attached. */
  #attached: Attached | undefined

  constructor(
    readonly db: Db,
    readonly random: Random,
    readonly life: Life,
    readonly captures: readonly Capture[],
    readonly outcome: Outcome,
  ) {}

  async open(wanted: readonly LifeCategory[]): Promise<void> {
    this.#wanted = wanted
    const device = this.life.devices[0]?.name ?? ''
    const job = await openJob(this.db, briefSchema.parse({ owner: 'Odile Varga', device, categories: wanted }))
    this.jobId = job.id
    for (const capture of this.#shuffled(this.captures)) {
      if (capture.kind === 'device') this.#attached = await attach(this.life, capture)
      const id =
        this.#attached && capture.kind === 'device'
          ? await addDevice(this.db, this.jobId, this.#attached.udid)
          : await addSource(this.db, this.jobId, capture.folder)
      this.#sources.set(capture, id)
      if (capture.password === null) continue
      await beginUnlock(this.db, id, capture.password)
      while (lockState(id).state === 'opening') await sleep(2)
    }
    for (const { key, name } of (await jobDevices(this.db, this.jobId)).devices)
      if (this.life.devices.find((one) => one.name === name)?.role === 'other')
        await sayDeviceRole(this.db, this.jobId, key, 'other')
  }

  async close(): Promise<void> {
    await this.#attached?.close()
    delete process.env.USBMUXD_SOCKET_ADDRESS
  }

  #shuffled<T>(list: readonly T[]): T[] {
    return list
      .map((one) => [this.random.next(), one] as const)
      .sort(([a], [b]) => a - b)
      .map(([, one]) => one)
  }

  /** Reads everything, in pieces of any size, some of which are broken off. */
  async read(categories: readonly LifeCategory[], lacking: Capture, unread: readonly LifeCategory[]): Promise<void> {
    const pieces: { capture: Capture; categories: LifeCategory[]; passes: Pass[] }[] = []
    for (const capture of this.captures) {
      const all = this.#shuffled(categories.filter((one) => capture !== lacking || !unread.includes(one)))
      if (capture === lacking) for (const category of unread) this.#skipped.add(category)
      while (all.length > 0)
        // Each read of a device is a state of its own: one takes in all.
        pieces.push({
          capture,
          categories: all.splice(0, capture.kind === 'device' ? all.length : this.random.int(1, all.length)),
          passes: ['live', 'residue'],
        })
    }
    for (const { capture, categories: some, passes } of this.#shuffled(pieces))
      await this.#readPiece(capture, some, passes)
  }

  async #readPiece(capture: Capture, categories: readonly CategoryId[], passes: readonly Pass[]): Promise<void> {
    const source = this.#sources.get(capture) as number
    const id = await startRead(this.db, source, categories, passes, await listReads(this.db, this.jobId))
    for (let tries = 0; ; tries++) {
      const state = (await findRead(this.db, id))?.state
      if (state === 'done' || state === 'gaps') return
      if (tries > 20) throw new Error(`read ${id} does not end: ${state}`)
      await claimWork(this.db, 'reads', 'life:1')
      const stop = new AbortController()
      const away = tries < 2 && this.random.chance(0.12)
      const back = away ? (capture.kind === 'device' ? this.#attached?.unplug() : takeAway(capture)) : undefined
      if (tries < 3 && this.random.chance(0.15)) setTimeout(() => stop.abort(), this.random.int(0, 40))
      await runRead(this.db, id, stop.signal)
      if (!back) continue
      const waits = (await findRead(this.db, id))?.state
      if (waits !== 'away' && waits !== 'queued') this.#wrong('a read', `its source was taken away, and it is ${waits}`)
      back()
      await resumeReturned(this.db)
    }
  }

  #wrong(what: string, words: string): void {
    this.outcome.wrong.push(`seed ${this.life.seed}, ${what}: ${words}`)
  }

  #check(what: string, name: string, is: unknown, should: unknown): void {
    this.outcome.claims++
    if (is !== should) this.#wrong(what, `${name} is ${is} and should be ${should}`)
  }

  /** Compares every claim of the job with what happened; gives the claims, for another order to agree with. */
  async compare(): Promise<Map<string, string>> {
    const claims = new Map<string, string>()
    const rows = await this.db('findings').where({ job_id: this.jobId }).orderBy('id')
    const lostOf = { whole: 0, partial: 0, elsewhere: 0 }
    const shown = new Map<string, Set<Capture>>()
    for (const row of rows) {
      const seen = await this.#seenOf(row.id, row.category)
      const item = this.life.items.find(({ token }) => `${row.title} ${row.text}`.includes(token))
      const claim = {
        standing: row.standing,
        from: time(row.lost_after),
        to: time(row.lost_before),
        binnedAt: time(row.binned_at),
      }
      if (!item) {
        this.#check(`leftover ${row.id}`, 'standing', ['rebuilt', 'partial', 'elsewhere'].includes(row.standing), true)
        continue
      }
      const what = `${item.category} ${item.token}`
      const states = await this.#statesOf(item.category)
      for (const one of seen) shown.set(item.token, (shown.get(item.token) ?? new Set()).add(one.capture))
      const should = expected(this.life, item, states, seen)
      for (const name of ['standing', 'from', 'to', 'binnedAt'] as const)
        this.#check(what, name, claim[name], should[name])
      const best = seen.find(({ id }) => id === Number(row.best_sighting_id))
      this.#check(what, 'date of the best copy', best?.at, should.best)
      this.#checkShown(what, item, states, seen)
      await this.#checkContent(what, item, Number(row.id), states, seen)
      // A device is read at another moment each time.
      const moment = (at: number | null | undefined) => (at != null && at > NOW ? 'now' : at)
      const times = { from: moment(claim.from), to: moment(claim.to), best: moment(best?.at) }
      claims.set(`${what} ${row.identity}`, JSON.stringify({ ...claim, ...times }))
      if (!this.#wanted.includes(item.category)) continue
      const had = contentPlace(item) === undefined || seen.some(({ present }) => present)
      if (should.standing === 'elsewhere') lostOf.elsewhere++
      else if (should.lost) lostOf[had && should.standing !== 'partial' ? 'whole' : 'partial']++
    }
    await this.#checkAllShown(shown)
    await this.#checkAnswer(lostOf)
    await this.#checkCost()
    return claims
  }

  async #seenOf(finding: number, category: string): Promise<(Seen & { id: number })[]> {
    const rows = await this.db('sightings')
      .where({ finding_id: finding })
      .select('id', 'source_id', 'condition', 'content_state')
    const dates = await this.#datesOf(category)
    return rows.map((row) => ({
      id: Number(row.id),
      capture: [...this.#sources].find(([, id]) => id === row.source_id)?.[0] as Capture,
      at: dates.get(row.source_id) ?? 0,
      condition: row.condition,
      present: row.content_state === 'present',
    }))
  }

  /** When each source shows a category: of a device, when what it is read from was fetched. */
  async #datesOf(category: string): Promise<Map<number, number>> {
    const kept = this.#dates.get(category)
    if (kept) return kept
    const steps = await this.db('read_steps')
      .join('reads', 'reads.id', 'read_steps.read_id')
      .where({ 'reads.job_id': this.jobId, category })
      .whereNotNull('taken_at')
      .select('source_id', 'taken_at')
    const known = new Map(steps.map((step) => [Number(step.source_id), step.taken_at.getTime() as number]))
    const sources = await listSources(this.db, this.jobId)
    const dates = new Map(sources.map(({ id, takenAt }) => [id, known.get(id) ?? takenAt?.getTime() ?? 0]))
    this.#dates.set(category, dates)
    return dates
  }

  async #statesOf(category: LifeCategory): Promise<KnownState[]> {
    const dates = await this.#datesOf(category)
    return this.captures.map((capture) => ({
      capture,
      at: dates.get(this.#sources.get(capture) as number) ?? 0,
      read: capture !== this.captures[0] || !this.#skipped.has(category),
    }))
  }

  /** A state shows an item as it was, or does not; what may not be known is left out. */
  #checkShown(what: string, item: LifeItem, states: readonly KnownState[], seen: readonly Seen[]): void {
    for (const state of states) {
      const should = mustShow(item, state)
      if (should === undefined) continue
      const is = seen.filter(({ capture }) => capture === state.capture).map(({ condition }) => condition)
      const shows = is.includes('live') ? 'live' : is.includes('binned') ? 'binned' : 'nothing'
      this.#check(what, `shown on day ${state.capture.day}`, shows, should)
    }
  }

  async #checkContent(
    what: string,
    item: LifeItem,
    finding: number,
    states: readonly KnownState[],
    seen: readonly Seen[],
  ): Promise<void> {
    if (contentPlace(item) === undefined) return
    for (const state of states) {
      const one = seen.find(({ capture }) => capture === state.capture)
      if (one && ['live', 'binned'].includes(mustShow(item, state) ?? ''))
        this.#check(what, `content on day ${state.capture.day}`, one.present, holdsContent(state.capture, item))
    }
    const opened = await openFindingContent(this.db, finding).catch(() => undefined)
    if (canBeHad(item, states) && seen.some(({ present }) => present)) {
      const bytes = opened && (await opened.source.read(0, opened.source.size))
      this.#check(what, 'content', bytes && Buffer.from(bytes).toString(), Buffer.from(contentOf(item)).toString())
    }
    await opened?.source.close()
  }

  /** Nothing that a source shows is lost on the way. */
  async #checkAllShown(shown: ReadonlyMap<string, ReadonlySet<Capture>>): Promise<void> {
    for (const item of this.life.items)
      for (const state of await this.#statesOf(item.category))
        if (['live', 'binned'].includes(mustShow(item, state) ?? ''))
          this.#check(
            `${item.category} ${item.token}`,
            `found on day ${state.capture.day}`,
            shown.get(item.token)?.has(state.capture),
            true,
          )
  }

  async #checkAnswer({
    whole,
    partial,
    elsewhere,
  }: {
    whole: number
    partial: number
    elsewhere: number
  }): Promise<void> {
    const { answer, matching, steps } = await jobRoute(this.db, this.jobId)
    this.#check(
      'the answer',
      'matching and whole',
      matching.binned + matching.earlier + matching.rebuilt - matching.withoutContent >= whole,
      true,
    )
    const gaps = this.captures.some((capture) => {
      if (this.life.devices[capture.device]?.role === 'other') return false
      return this.#wanted.some((category) => {
        if (leavesOut(capture.kind, category)) return false
        if (capture === this.captures[0] && this.#skipped.has(category)) return true
        const harm = capture.harm.get(category)
        if (harm === 'damaged' || harm === 'missing') return true
        return this.life.items.some(
          (item) =>
            item.category === category &&
            capture.withoutContent.has(item.token) &&
            harm === undefined &&
            stateOn(item, capture.device, capture.day) !== undefined,
        )
      })
    })
    const should =
      whole > 0 ? 'found' : partial > 0 ? 'found in part' : gaps || elsewhere > 0 ? 'not found so far' : 'not found'
    // Leftovers that lost their names may match as well: they make an answer better, never worse.
    const better = ['found', 'found in part', 'not found so far', 'not found']
    const leftovers = matching.rebuilt + matching.partial > 0 || matching.elsewhere > elsewhere
    if (leftovers)
      this.#check(
        'the answer',
        `"${answer.answer}" as good as "${should}"`,
        better.indexOf(answer.answer) <= better.indexOf(should),
        true,
      )
    else if (
      answer.answer !== should &&
      !(should === 'not found' && answer.gaps.every(({ kind }) => kind === 'cannot-hold'))
    )
      this.#check('the answer', 'answer', `${answer.answer} (${JSON.stringify(matching)})`, should)
    else this.outcome.claims++
    for (const step of steps) {
      const capture = [...this.#sources].find(([, id]) => id === step.sourceId)?.[0]
      if (!capture) continue
      const everyRead = this.#wanted.every((one) => capture !== this.captures[0] || !this.#skipped.has(one))
      const other = this.life.devices[capture.device]?.role === 'other'
      this.#check('the route', `${step.rule} towards a source of somebody else`, other, false)
      if (['newest-before-loss', 'within-loss', 'leftovers', 'read-others', 'full-restore-last'].includes(step.rule))
        this.#check('the route', `${step.rule} towards what was read whole`, everyRead, false)
    }
  }

  async #checkCost(): Promise<void> {
    if (this.captures.length < 2) return
    const [first, second] = this.#shuffled(this.captures) as [Capture, Capture]
    const ids = [first, second].map((one) => this.#sources.get(one) as number) as [number, number]
    const { lines, notCompared } = await restoreCost(this.db, this.jobId, ...ids)
    for (const category of new Set(this.life.items.map((item) => item.category))) {
      const states = await this.#statesOf(category)
      const speaks = (capture: Capture) =>
        !['damaged', 'absent', 'missing'].includes(capture.harm.get(category) ?? '') &&
        states.some((state) => state.capture === capture && state.read)
      const line = lines.find((one) => one.category === category)
      this.#check('restore cost', `${category} compared`, line !== undefined, speaks(first) && speaks(second))
      this.#check(
        'restore cost',
        `${category} named`,
        notCompared.some((one) => one.category === category),
        line === undefined,
      )
      if (!line || !speaks(first) || !speaks(second)) continue
      const items = this.life.items.filter((item) => item.category === category)
      const isLive = (capture: Capture, item: LifeItem) =>
        capture.harm.get(category) !== 'empty' && stateOn(item, capture.device, capture.day)?.condition === 'live'
      const count = (a: boolean, b: boolean) =>
        items.filter((item) => isLive(first, item) === a && isLive(second, item) === b).length
      this.#check('restore cost', `${category} come back`, line.onlyFirst, count(true, false))
      this.#check('restore cost', `${category} wiped`, line.onlySecond, count(false, true))
      this.#check('restore cost', `${category} in both`, line.both, count(true, true))
    }
  }
}

/** Later than every captured day. */
const NOW = BEGIN + (SPAN + 1) * DAY

interface Attached {
  udid: string
  unplug(): () => void
  close(): Promise<void>
}

/** The phone of a life on the cable, trusting this computer, with what a capture shows. */
async function attach(life: Life, { folder, device }: Capture): Promise<Attached> {
  const { udid, name } = life.devices[device] as Life['devices'][number]
  const identity = { udid, name, productType: 'iPhone14,5', osVersion: '17.6', capacity: 64e9 }
  const phone = new StandInDevice(identity, await BackupFiles.open(folder), {})
  const bus = new StandInMultiplexer()
  bus.add(phone)
  await bus.listen({ host: '127.0.0.1', port: 0 })
  process.env.USBMUXD_SOCKET_ADDRESS = `127.0.0.1:${bus.port}`
  const mux = new Multiplexer({ host: '127.0.0.1', port: bus.port })
  const [attached] = await mux.devices()
  if (!attached) throw new Error('the phone is not on the cable')
  const lockdown = await Lockdown.open(mux, attached)
  await pair(mux, attached, lockdown)
  lockdown.close()
  return {
    udid,
    unplug: () => {
      phone.set({ plugged: false })
      return () => phone.set({ plugged: true })
    },
    close: () => bus.close(),
  }
}

const time = (value: Date | null): number | null => value?.getTime() ?? null

/** A folder for each life below another one. */
export const folderOf = (below: string, seed: number): string => join(below, `life-${seed}`)
