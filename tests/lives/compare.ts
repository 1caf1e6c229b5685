import { asId } from '../../apps/workbench/src/database/json.js'
import { listSources } from '../../apps/workbench/src/database/sources.js'
import type { FindingId, SightingId, SourceId } from '../../apps/workbench/src/domain/ids.js'
import { openFindingContent } from '../../apps/workbench/src/services/content.js'
import { restoreCost } from '../../apps/workbench/src/services/differences.js'
import { jobRoute } from '../../apps/workbench/src/services/route.js'
import { type Capture, holdsContent, isOfAccount, leavesOut } from './capture.js'
import type { LivedJob } from './job.js'
import { BEGIN, DAY, type LifeCategory, type LifeItem, SPAN, stateOn } from './life.js'
import { canBeHad, expected, type KnownState, mustShow, type Seen } from './oracle.js'
import { contentOf, contentPlace } from './stores.js'

/** Later than every captured day. */
const NOW = BEGIN + (SPAN + 1) * DAY

/** Every claim of a job, against what happened in the life. */
export class Comparison {
  readonly #dates = new Map<string, Map<SourceId, number>>()

  constructor(readonly job: LivedJob) {}

  /** Compares every claim of the job with what happened; gives the claims, for another order to agree with. */
  async claims(): Promise<Map<string, string>> {
    const claims = new Map<string, string>()
    const rows = await this.job.db('findings').where({ job_id: this.job.jobId }).orderBy('id')
    const lostOf = { whole: 0, partial: 0, elsewhere: 0 }
    const shown = new Map<string, Set<Capture>>()
    for (const row of rows) {
      const seen = await this.#seenOf(row.id, row.category)
      const item = this.job.life.items.find(({ token }) => `${row.title} ${row.text}`.includes(token))
      const claim = {
        standing: row.standing,
        from: time(row.lost_after),
        to: time(row.lost_before),
        binnedAt: time(row.binned_at),
      }
      if (!item) {
        this.job.check(
          `leftover ${row.id}`,
          'standing',
          ['rebuilt', 'partial', 'elsewhere'].includes(row.standing),
          true,
        )
        continue
      }
      const what = `${item.category} ${item.token}`
      const states = await this.#statesOf(item.category)
      for (const one of seen) shown.set(item.token, (shown.get(item.token) ?? new Set()).add(one.capture))
      const should = expected(item, states, seen)
      for (const name of ['standing', 'from', 'to', 'binnedAt'] as const)
        this.job.check(what, name, claim[name], should[name])
      const best = seen.find(({ id }) => id === Number(row.best_sighting_id))
      this.job.check(what, 'date of the best copy', best?.at, should.best)
      this.#checkShown(what, item, states, seen)
      await this.#checkContent(what, item, asId(row.id), states, seen)
      // A device is read at another moment each time.
      const moment = (at: number | null | undefined) => (at != null && at > NOW ? 'now' : at)
      const times = { from: moment(claim.from), to: moment(claim.to), best: moment(best?.at) }
      claims.set(`${what} ${row.identity}`, JSON.stringify({ ...claim, ...times }))
      if (!this.job.wanted.includes(item.category)) continue
      const had = contentPlace(item) === undefined || seen.some(({ present }) => present)
      if (should.standing === 'elsewhere') lostOf.elsewhere++
      else if (should.lost) lostOf[had && should.standing !== 'partial' ? 'whole' : 'partial']++
    }
    await this.#checkAllShown(shown)
    await this.#checkAnswer(lostOf)
    await this.#checkCost()
    return claims
  }

  async #seenOf(finding: FindingId, category: string): Promise<(Seen & { id: SightingId })[]> {
    const rows = await this.job
      .db('sightings')
      .where({ finding_id: finding })
      .select('id', 'source_id', 'condition', 'content_state')
    const dates = await this.#datesOf(category)
    return rows.map((row) => ({
      id: asId(row.id),
      capture: [...this.job.sources].find(([, id]) => id === row.source_id)?.[0] as Capture,
      at: dates.get(row.source_id) ?? 0,
      condition: row.condition,
      present: row.content_state === 'present',
    }))
  }

  /** When each source shows a category: of a device, when what it is read from was fetched. */
  async #datesOf(category: string): Promise<Map<SourceId, number>> {
    const kept = this.#dates.get(category)
    if (kept) return kept
    const steps = await this.job
      .db('read_steps')
      .join('reads', 'reads.id', 'read_steps.read_id')
      .where('reads.job_id', this.job.jobId)
      .where('category', category)
      .whereNotNull('taken_at')
      .select('source_id', 'taken_at')
    const known = new Map(steps.map((step) => [step.source_id, step.taken_at?.getTime() ?? 0]))
    const sources = await listSources(this.job.db, this.job.jobId)
    const dates = new Map(sources.map(({ id, takenAt }) => [id, known.get(id) ?? takenAt?.getTime() ?? 0]))
    this.#dates.set(category, dates)
    return dates
  }

  async #statesOf(category: LifeCategory): Promise<KnownState[]> {
    const dates = await this.#datesOf(category)
    return this.job.captures.map((capture) => ({
      capture,
      at: dates.get(this.job.sources.get(capture) as SourceId) ?? 0,
      read: capture !== this.job.captures[0] || !this.job.skipped.has(category),
    }))
  }

  /** A state shows an item as it was, or does not; what may not be known is left out. */
  #checkShown(what: string, item: LifeItem, states: readonly KnownState[], seen: readonly Seen[]): void {
    for (const state of states) {
      const should = mustShow(item, state)
      if (should === undefined) continue
      const is = seen.filter(({ capture }) => capture === state.capture).map(({ condition }) => condition)
      const shows = is.includes('live') ? 'live' : is.includes('binned') ? 'binned' : 'nothing'
      this.job.check(what, `shown on day ${state.capture.day}`, shows, should)
    }
  }

  async #checkContent(
    what: string,
    item: LifeItem,
    finding: FindingId,
    states: readonly KnownState[],
    seen: readonly Seen[],
  ): Promise<void> {
    if (contentPlace(item) === undefined) return
    for (const state of states) {
      const one = seen.find(({ capture }) => capture === state.capture)
      if (one && ['live', 'binned'].includes(mustShow(item, state) ?? ''))
        this.job.check(what, `content on day ${state.capture.day}`, one.present, holdsContent(state.capture, item))
    }
    const opened = await openFindingContent(this.job.db, finding).catch(() => undefined)
    if (canBeHad(item, states) && seen.some(({ present }) => present)) {
      const bytes = opened && (await opened.source.read(0, opened.source.size))
      this.job.check(what, 'content', bytes && Buffer.from(bytes).toString(), Buffer.from(contentOf(item)).toString())
    }
    await opened?.source.close()
  }

  /** Nothing that a source shows is lost on the way. */
  async #checkAllShown(shown: ReadonlyMap<string, ReadonlySet<Capture>>): Promise<void> {
    for (const item of this.job.life.items)
      for (const state of await this.#statesOf(item.category))
        if (['live', 'binned'].includes(mustShow(item, state) ?? ''))
          this.job.check(
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
    const { answer, matching, steps } = await jobRoute(this.job.db, this.job.jobId)
    this.job.check(
      'the answer',
      'matching and whole',
      matching.binned + matching.earlier + matching.rebuilt - matching.withoutContent >= whole,
      true,
    )
    const gaps = this.job.captures.some((capture) => {
      if (!isOfAccount(capture) && this.job.life.devices[capture.device]?.role === 'other') return false
      return this.job.wanted.some((category) => {
        if (leavesOut(capture.kind, category)) return false
        if (capture === this.job.captures[0] && this.job.skipped.has(category)) return true
        const harm = capture.harm.get(category)
        if (harm === 'damaged' || harm === 'missing') return true
        return this.job.life.items.some(
          (item) =>
            item.category === category &&
            capture.withoutContent.has(item.token) &&
            harm === undefined &&
            stateOn(item, capture.device, capture.day) !== undefined,
        )
      })
    })
    const should =
      whole > 0 ? 'found' : partial > 0 ? 'found-in-part' : gaps || elsewhere > 0 ? 'not-found-so-far' : 'not-found'
    // Leftovers that lost their names may match as well: they make an answer better, never worse.
    const better = ['found', 'found-in-part', 'not-found-so-far', 'not-found']
    const leftovers = matching.rebuilt + matching.partial > 0 || matching.elsewhere > elsewhere
    if (leftovers)
      this.job.check(
        'the answer',
        `"${answer.answer}" as good as "${should}"`,
        better.indexOf(answer.answer) <= better.indexOf(should),
        true,
      )
    else if (
      answer.answer !== should &&
      !(should === 'not-found' && answer.gaps.every(({ kind }) => kind === 'cannot-hold'))
    )
      this.job.check('the answer', 'answer', `${answer.answer} (${JSON.stringify(matching)})`, should)
    else this.job.outcome.claims++
    for (const step of steps) {
      const capture = [...this.job.sources].find(([, id]) => id === step.sourceId)?.[0]
      if (!capture) continue
      const everyRead = this.job.wanted.every((one) => capture !== this.job.captures[0] || !this.job.skipped.has(one))
      const other = !isOfAccount(capture) && this.job.life.devices[capture.device]?.role === 'other'
      this.job.check('the route', `${step.rule} towards a source of somebody else`, other, false)
      if (['newest-before-loss', 'within-loss', 'leftovers', 'read-others', 'full-restore-last'].includes(step.rule))
        this.job.check('the route', `${step.rule} towards what was read whole`, everyRead, false)
    }
  }

  async #checkCost(): Promise<void> {
    if (this.job.captures.length < 2) return
    const [first, second] = this.job.shuffled(this.job.captures) as [Capture, Capture]
    const ids = [first, second].map((one) => this.job.sources.get(one) as SourceId) as [SourceId, SourceId]
    const { lines, notCompared } = await restoreCost(this.job.db, this.job.jobId, ...ids)
    for (const category of new Set(this.job.life.items.map((item) => item.category))) {
      const states = await this.#statesOf(category)
      const speaks = (capture: Capture) =>
        // An account is no state of a device, with which another could be compared.
        !isOfAccount(capture) &&
        !['damaged', 'absent', 'missing'].includes(capture.harm.get(category) ?? '') &&
        states.some((state) => state.capture === capture && state.read)
      const line = lines.find((one) => one.category === category)
      this.job.check('restore cost', `${category} compared`, line !== undefined, speaks(first) && speaks(second))
      this.job.check(
        'restore cost',
        `${category} named`,
        notCompared.some((one) => one.category === category),
        line === undefined,
      )
      if (!line || !speaks(first) || !speaks(second)) continue
      const items = this.job.life.items.filter((item) => item.category === category)
      const isLive = (capture: Capture, item: LifeItem) =>
        capture.harm.get(category) !== 'empty' && stateOn(item, capture.device, capture.day)?.condition === 'live'
      const count = (a: boolean, b: boolean) =>
        items.filter((item) => isLive(first, item) === a && isLive(second, item) === b).length
      this.job.check('restore cost', `${category} come back`, line.onlyFirst, count(true, false))
      this.job.check('restore cost', `${category} wiped`, line.onlySecond, count(false, true))
      this.job.check('restore cost', `${category} in both`, line.both, count(true, true))
    }
  }
}

const time = (value: Date | null): number | null => value?.getTime() ?? null
