import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileIdOf } from '@lumbrin/core/backup/manifest-values'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Json, Sighting } from '@lumbrin/core/categories/types'
import type { APIRequestContext } from '@playwright/test'
import type { Facets, FindingLine } from '../../apps/workbench/src/domain/finding.js'
import type { JobProgress } from '../../apps/workbench/src/domain/progress.js'
import { data } from '../../playwright.config.js'
import { expect } from './steps.js'

// Contents that are opened together.
const AT_ONCE = 8

// What keeps the line alive comes before, where the first answer takes long.
const EVENT = /^data: (.*)\n\n/m

/** A job that goes its whole way over HTTP, as the pages do: source, read, findings, contents, tray, package. */
export class Round {
  private constructor(
    readonly request: APIRequestContext,
    readonly job: number,
    readonly base: string,
  ) {}

  static async begin(
    request: APIRequestContext,
    base: string,
    owner: string,
    categories: CategoryId[],
  ): Promise<Round> {
    const { id } = await json<{ id: number }>(await request.post('/api/jobs', { data: { owner, categories } }), 201)
    return new Round(request, id, base)
  }

  async add(path: string, body: object): Promise<number> {
    return (await json<{ id: number }>(await this.request.post(`/api/jobs/${this.job}/${path}`, { data: body }), 201))
      .id
  }

  async unlock(source: number, password: string): Promise<void> {
    const address = `/api/sources/${source}/lock`
    await this.request.post(address, { data: { password } })
    await expect.poll(async () => (await json<{ state: string }>(await this.request.get(address))).state).toBe('open')
  }

  /** Reads a source to its end; gives the state in which it ended. */
  async read(source: number, categories: readonly CategoryId[], passes: readonly string[] = []): Promise<string> {
    const body = { data: { categories, passes } }
    await json(await this.request.post(`/api/sources/${source}/reads`, body), 201)
    await expect
      .poll(async () => (await this.progress()).reads[0]?.state, { timeout: 240_000, intervals: [300] })
      .toMatch(/^(done|gaps|failed|away)$/)
    const [read] = (await this.progress()).reads
    return `${read?.state}${read?.error ? `: ${read.error}` : ''}`
  }

  /** What the job's pages are told, once. */
  async progress(): Promise<JobProgress> {
    const stop = new AbortController()
    const { cookies } = await this.request.storageState()
    const headers = { cookie: cookies.map(({ name, value }) => `${name}=${value}`).join('; ') }
    const answer = await fetch(`${this.base}/api/jobs/${this.job}/events`, { signal: stop.signal, headers })
    let text = ''
    for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) {
      text += Buffer.from(piece).toString('utf8')
      if (EVENT.test(text)) break
    }
    stop.abort()
    return JSON.parse(EVENT.exec(text)?.[1] ?? '')
  }

  /** Every finding of the job. */
  async findings(): Promise<FindingLine[]> {
    const address = `/api/jobs/${this.job}/findings`
    const facets = await json<Facets>(await this.request.get(`/api/jobs/${this.job}/facets`))
    const lines: FindingLine[] = []
    for (const category of Object.keys(facets)) {
      let last: FindingLine | undefined
      for (;;) {
        const after = new URLSearchParams({ category, order: 'oldest' })
        if (last) {
          after.set('afterId', String(last.id))
          if (last.when) after.set('afterWhen', last.when)
        }
        const page = await json<FindingLine[]>(await this.request.get(`${address}?${after}`))
        lines.push(...page)
        last = page.at(-1)
        if (page.length < 200) break
      }
    }
    return lines
  }

  /** Opens every content and every attachment; gives the checksum of each content by its finding. */
  async openAll(lines: readonly FindingLine[], backup: string | null): Promise<Map<number, string>> {
    const sums = new Map<number, string>()
    for (let at = 0; at < lines.length; at += AT_ONCE)
      await Promise.all(lines.slice(at, at + AT_ONCE).map((line) => this.#openOne(line, backup, sums)))
    return sums
  }

  async #openOne(line: FindingLine, backup: string | null, sums: Map<number, string>): Promise<void> {
    const can = line.contentState === 'present' || line.contentState === 'none'
    if (line.hasContent) {
      const answer = await this.request.get(`/api/findings/${line.id}/content`)
      expect(answer.status(), `${line.category} ${line.title} (${line.contentState})`).toBe(can ? 200 : 404)
      if (!can) return
      const bytes = await answer.body()
      sums.set(line.id, sha256(bytes))
      const own = backup && ownFile(backup, line.fields)
      if (own && line.category !== 'strays') expect(sha256(bytes), line.title).toBe(sha256(readFileSync(own)))
    }
    const attached = Array.isArray(line.fields.attachments) ? (line.fields.attachments as { path: Json }[]) : []
    for (const [i, { path }] of attached.entries())
      if (can && path !== null) {
        const answer = await this.request.get(`/api/findings/${line.id}/attachments/${i + 1}`)
        expect(answer.status(), `${line.title}, attachment ${i + 1}`).toBe(200)
      }
  }

  /** Hands everything over, and checks the package with the checksum tool and item by item. @returns its folder */
  async handOver(lines: readonly FindingLine[], sums: ReadonlyMap<number, string>): Promise<string> {
    for (const category of new Set(lines.map((line) => line.category)))
      await json(
        await this.request.post(`/api/jobs/${this.job}/tray`, { data: { addMatching: `category=${category}` } }),
      )
    const folder = join(data, 'handovers', `round-${this.job}`)
    await this.add('handovers', { kind: 'folder', folder })
    await expect
      .poll(async () => (await this.progress()).handovers[0]?.state, { timeout: 240_000, intervals: [300] })
      .toMatch(/^(done|failed)$/)
    const [handover] = (await this.progress()).handovers
    expect(handover).toMatchObject({ state: 'done', error: null })
    for (const manifest of ['manifest-sha256.txt', 'tagmanifest-sha256.txt'])
      execFileSync('sha256sum', ['--strict', '--quiet', '-c', manifest], { cwd: folder })
    const items = readFileSync(join(folder, 'data/index.jsonl'), 'utf8').trim().split('\n').map(parsedItem)
    expect(items.length).toBe(lines.length)
    const missed = items.filter((item) => item.missed).length
    expect(handover?.summary).toMatchObject({ items: lines.length - missed, missed })
    expect(missed).toBe(lines.filter(isMissing).length)
    const inPackage = new Set(
      readFileSync(join(folder, 'manifest-sha256.txt'), 'utf8')
        .split('\n')
        .map((line) => line.slice(0, 64)),
    )
    for (const line of lines)
      if (ORIGINALS.includes(line.category) && sums.has(line.id))
        expect(inPackage.has(sums.get(line.id) as string), `${line.category} ${line.title}`).toBe(true)
    return folder
  }
}

/** Categories whose contents go into a package as they are. */
const ORIGINALS: readonly CategoryId[] = ['photos', 'videos', 'voice-memos', 'voicemail', 'app-pictures', 'other-files']

/** Items whose default format is their content, which cannot be had. */
const isMissing = (line: FindingLine): boolean =>
  !NO_ORIGINALS.includes(line.category) && (!line.hasContent || !['present', 'none'].includes(line.contentState))
const NO_ORIGINALS: readonly CategoryId[] = [
  'messages',
  'chats',
  'calls',
  'contacts',
  'notes',
  'events',
  'reminders',
  'web-history',
  'bookmarks',
  'open-tabs',
  'networks',
  'accounts',
  'credentials',
  'installed-apps',
  'places',
]

const parsedItem = (line: string) => JSON.parse(line) as Sighting & { missed?: boolean; files: string[] }

async function json<T>(answer: Awaited<ReturnType<APIRequestContext['get']>>, status = 200): Promise<T> {
  expect(answer.status(), `${answer.url()}: ${(await answer.text()).slice(0, 300)}`).toBe(status)
  return (await answer.json()) as T
}

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')

/** Where a backup without a password keeps the file that a finding names; undefined: it does not. */
function ownFile(backup: string, fields: FindingLine['fields']): string | undefined {
  if (typeof fields.path !== 'string') return undefined
  const id = fileIdOf(typeof fields.domain === 'string' ? fields.domain : 'CameraRollDomain', fields.path)
  return [join(backup, id.slice(0, 2), id), join(backup, id)].find((path) => existsSync(path))
}
