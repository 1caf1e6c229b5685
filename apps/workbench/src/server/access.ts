import { createHash, randomBytes, timingSafeEqual } from 'node:crypto'
import { rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'

/** A browser that was let in. Only the hash of its token is kept: whoever reads it cannot come in with it. */
export interface Session {
  hash: string
  begunAt: number
  seenAt: number
  /** Who works at this browser; nobody said: undefined. */
  operator?: string | undefined
}

/** Where sessions are kept, so that they outlast a restart of the server. */
export interface SessionStore {
  load(): Promise<Session[]>
  save(sessions: readonly Session[]): Promise<void>
}

const HOUR_MS = 3_600_000
// OWASP ASVS 4.0.3, 3.3.2 (level 2): again after 12 hours, or 30 minutes without activity. A bench stands in a shop, and its
// work runs over night; the computer's own lock guards the screen, so the second one is longer here.
const LONGEST_MS = 7 * 24 * HOUR_MS
const LONGEST_IDLE_MS = 12 * HOUR_MS
// The time of the last request is written down this often at most.
const NOTE_MS = HOUR_MS / 6
const MOST_SESSIONS = 50

/** The file in the data folder with the address that lets the next browser in. */
export const ADDRESS_FILE = 'address'

const newSecret = () => randomBytes(32).toString('base64url')
const hashOf = (token: string) => createHash('sha256').update(token).digest('hex')

/**
 * Lets in who can read this user's files, and nobody else of this computer: an address with a secret that works once is
 * exchanged for a cookie.
 */
export class Access {
  #key = newSecret()
  #sessions: Session[] = []

  constructor(
    readonly port: number,
    readonly dataFolder: string,
    readonly store: SessionStore,
    readonly now: () => number = Date.now,
  ) {}

  async open(): Promise<void> {
    this.#sessions = await this.store.load()
    await this.#offer()
  }

  /** The address that lets the next browser in. */
  get address(): string {
    return `http://127.0.0.1:${this.port}/enter?key=${this.#key}`
  }

  async close(): Promise<void> {
    await rm(join(this.dataFolder, ADDRESS_FILE), { force: true })
  }

  /** A new secret lies in a file that this user alone can read. */
  async #offer(): Promise<void> {
    this.#key = newSecret()
    const path = join(this.dataFolder, ADDRESS_FILE)
    // One that lies there already may be readable by others.
    await rm(path, { force: true })
    await writeFile(path, `${this.address}\n`, { mode: 0o600 })
  }

  /** Exchanges the secret for a session; gives the cookie. Undefined: it is wrong, or was used. */
  async enter(key: string): Promise<string | undefined> {
    const given = Buffer.from(key)
    const wanted = Buffer.from(this.#key)
    if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) return undefined
    await this.#offer()
    const token = newSecret()
    const now = this.now()
    this.#sessions = [...this.#live(), { hash: hashOf(token), begunAt: now, seenAt: now }].slice(-MOST_SESSIONS)
    await this.store.save(this.#sessions)
    return this.#cookie(token, LONGEST_MS / 1000)
  }

  /** True where a request's cookies hold a session that goes on. */
  knows(cookies: string | undefined): boolean {
    const session = this.#sessionIn(cookies)
    if (!session) return false
    const now = this.now()
    if (now - session.seenAt > NOTE_MS) {
      session.seenAt = now
      // Should the database be away, the time is noted with the next request.
      this.store.save(this.#live()).catch(() => {})
    }
    return true
  }

  /** Who works at the browser of these cookies; an empty text: nobody said. */
  operatorOf(cookies: string | undefined): string {
    return this.#sessionIn(cookies)?.operator ?? ''
  }

  /** Says who works at a browser from now on. */
  async nameOperator(cookies: string | undefined, operator: string): Promise<void> {
    const session = this.#sessionIn(cookies)
    if (!session) return
    session.operator = operator
    await this.store.save(this.#live())
  }

  /** Ends a browser's session, or those of all; gives the cookie that takes the place of its own. */
  async leave(cookies: string | undefined, all: boolean): Promise<string> {
    const session = this.#sessionIn(cookies)
    this.#sessions = all ? [] : this.#live().filter((one) => one !== session)
    await this.store.save(this.#sessions)
    return this.#cookie('', 0)
  }

  #sessionIn(cookies: string | undefined): Session | undefined {
    const name = `${this.#cookieName}=`
    const found = (cookies ?? '').split(/; ?/).find((one) => one.startsWith(name))
    const hash = found && hashOf(found.slice(name.length))
    return hash ? this.#live().find((one) => one.hash === hash) : undefined
  }

  #live(): Session[] {
    const now = this.now()
    return this.#sessions.filter(({ begunAt, seenAt }) => now - begunAt < LONGEST_MS && now - seenAt < LONGEST_IDLE_MS)
  }

  /** Cookies do not tell ports apart. */
  get #cookieName(): string {
    return `lumbrin-${this.port}`
  }

  #cookie(token: string, seconds: number): string {
    return `${this.#cookieName}=${token}; HttpOnly; SameSite=Strict; Path=/; Max-Age=${seconds}`
  }
}
