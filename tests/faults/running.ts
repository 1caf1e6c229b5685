import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import type { ReadableStream as WebStream } from 'node:stream/web'
import { setTimeout as sleep } from 'node:timers/promises'
import type { JobId } from '../../apps/workbench/src/domain/ids.js'
import type { JobProgress } from '../../apps/workbench/src/domain/progress.js'

/** The processes of a running Lumbrin: what starts them, and what it keeps running. */
export const PARTS = ['launcher', 'database', 'server', 'reader'] as const
export type Part = (typeof PARTS)[number]

const MARKS: Record<Exclude<Part, 'launcher'>, string> = {
  database: 'mariadbd',
  server: 'dist/main.mjs',
  reader: 'dist/reader.mjs',
}

/** Longer than a slow machine takes. Milliseconds. */
const PATIENCE_MS = 300_000

/** Something that is waited for came to another end. */
export class EndedBadly extends Error {}

/** Lumbrin as `npm start` runs it, over a data folder of its own; asked as a browser asks. After `npm run build`. */
export class RunningLumbrin {
  #launcher: ChildProcess | undefined
  #cookie = ''

  private constructor(
    readonly data: string,
    readonly roots: string,
    readonly port: number,
  ) {}

  static async start(data: string, roots: string): Promise<RunningLumbrin> {
    const running = new RunningLumbrin(data, roots, await freePort())
    await running.#launch()
    return running
  }

  async #launch(): Promise<void> {
    this.#launcher = spawn(process.execPath, ['scripts/start.mjs'], {
      env: {
        ...process.env,
        // It starts a database of its own, not that of another test.
        LUMBRIN_DATABASE_URL: undefined,
        LUMBRIN_DATA: this.data,
        LUMBRIN_ROOTS: this.roots,
        LUMBRIN_PORT: String(this.port),
      },
      stdio: 'ignore',
    })
    await this.answered()
  }

  /** Kills a part as the system does that ran out of memory. The launcher is started again, as a user would. */
  async kill(part: Part): Promise<void> {
    const pid = this.#pidOf(part)
    if (pid === undefined) return
    process.kill(pid, 'SIGKILL')
    if (part !== 'launcher') return
    if (this.#launcher?.exitCode === null && this.#launcher.signalCode === null) await once(this.#launcher, 'exit')
    await this.#launch()
  }

  #pidOf(part: Part): number | undefined {
    if (part === 'launcher') return this.#launcher?.pid
    return childrenOf(this.#launcher?.pid ?? 0).find(({ words }) => words.includes(MARKS[part]))?.pid
  }

  async stop(): Promise<void> {
    const launcher = this.#launcher
    if (launcher?.exitCode !== null || launcher.signalCode !== null) return
    launcher.kill('SIGTERM')
    await once(launcher, 'exit')
  }

  /** Waits until the server answers. */
  async answered(): Promise<void> {
    await this.until(async () => (await this.ask('/api/jobs')).ok, 'the server answers')
  }

  /** Asks until something holds; what fails meanwhile is asked again. @throws where it does not come */
  async until(holds: () => Promise<boolean>, what: string): Promise<void> {
    const end = Date.now() + PATIENCE_MS
    for (let last: unknown; ; await sleep(100)) {
      const held = await holds().catch((thrown) => {
        if (thrown instanceof EndedBadly) throw thrown
        last = thrown
      })
      if (held) return
      if (Date.now() > end) throw new Error(`it does not come that ${what}: ${String(last ?? '')}`)
    }
  }

  async ask(path: string, request: RequestInit = {}): Promise<Response> {
    if (this.#cookie === '') await this.#enter()
    const base = `http://127.0.0.1:${this.port}`
    const headers = { cookie: this.#cookie, origin: base, 'content-type': 'application/json' }
    const answer = await fetch(`${base}${path}`, { ...request, headers, signal: AbortSignal.timeout(PATIENCE_MS) })
    if (answer.status === 401 || answer.status === 403) this.#cookie = ''
    return answer
  }

  /** Lets itself in by the address that was printed. */
  async #enter(): Promise<void> {
    const file = join(this.data, 'address')
    if (!existsSync(file)) throw new Error('no address yet')
    const answer = await fetch(readFileSync(file, 'utf8').trim(), { redirect: 'manual' })
    this.#cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? ''
  }

  /** Sends a request again until the server accepts it; 409 says that it accepted an earlier try. @returns its answer */
  async send(path: string, body: unknown): Promise<{ id: number }> {
    let taken: { id: number } = { id: 0 }
    await this.until(async () => {
      const answer = await this.ask(path, { method: 'POST', body: JSON.stringify(body) })
      if (answer.ok) taken = (await answer.json().catch(() => taken)) as typeof taken
      else if (answer.status !== 409) throw new Error(`${answer.status} ${await answer.text()}`)
      return true
    }, `${path} is taken`)
    return taken
  }

  /** What of a job moves by itself, as a page that is opened now is told. */
  async progress(job: JobId): Promise<JobProgress> {
    const answer = await this.ask(`/api/jobs/${job}/events`)
    if (!answer.ok || !answer.body) throw new Error(`${answer.status} ${await answer.text()}`)
    let text = ''
    for await (const piece of Readable.fromWeb(answer.body as WebStream)) {
      text += String(piece)
      const told = /^data: (.*)\n/m.exec(text)?.[1]
      if (told) return JSON.parse(told) as JobProgress
    }
    throw new Error('the events ended')
  }
}

function childrenOf(parent: number): { pid: number; words: string }[] {
  return readdirSync('/proc').flatMap((name) => {
    try {
      // Field 4 of proc(5); the name in field 2 may hold blanks and brackets.
      const stat = readFileSync(`/proc/${Number(name)}/stat`, 'utf8')
      if (Number(stat.split(') ').at(-1)?.split(' ')[1]) !== parent) return []
      return [{ pid: Number(name), words: readFileSync(`/proc/${name}/cmdline`, 'utf8').replaceAll('\0', ' ') }]
    } catch {
      return []
    }
  })
}

const freePort = (): Promise<number> =>
  new Promise((go) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number }
      server.close(() => go(port))
    })
  })
