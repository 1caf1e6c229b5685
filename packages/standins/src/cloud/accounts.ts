import { randomBytes, randomInt } from 'node:crypto'

/** An account of the made-up service. */
export interface Account {
  name: string
  password: string
  /** The code that the second step wants; null: a new one is drawn each time. */
  code: string | null
  /** Its backups are locked with keys that only its devices have. */
  extraProtection: boolean
  /** What is kept in the cloud. */
  syncs: Record<string, boolean>
}

interface Challenge {
  account: Account
  code: string
  until: number
  tries: number
}

interface Session {
  account: Account
  refreshToken: string
  until: number
}

export interface Times {
  codeMs: number
  tokenMs: number
  lockMs: number
}

const MOST_TRIES = 5

export type SignIn =
  | { kind: 'challenge'; challenge: string; code: string }
  | { kind: 'wrong'; triesLeft: number }
  | { kind: 'locked'; retryAfterMs: number }
export type Confirm =
  | { kind: 'session'; token: string; refreshToken: string; expiresInMs: number }
  | { kind: 'wrong'; triesLeft: number }
  | { kind: 'gone' }

/** Who is signed in, who has tried too often. */
export class Accounts {
  readonly #challenges = new Map<string, Challenge>()
  readonly #sessions = new Map<string, Session>()
  readonly #wrong = new Map<string, { count: number; until: number }>()

  constructor(
    readonly all: readonly Account[],
    readonly times: Times,
  ) {}

  signIn(name: string, password: string): SignIn {
    const key = name.trim().toLowerCase()
    const earlier = this.#wrong.get(key)
    if (earlier && earlier.count >= MOST_TRIES && Date.now() < earlier.until)
      return { kind: 'locked', retryAfterMs: earlier.until - Date.now() }
    const account = this.all.find((one) => one.name === key && one.password === password)
    if (!account) {
      const count = earlier && Date.now() < earlier.until ? earlier.count + 1 : 1
      this.#wrong.set(key, { count, until: Date.now() + this.times.lockMs })
      return { kind: 'wrong', triesLeft: Math.max(0, MOST_TRIES - count) }
    }
    this.#wrong.delete(key)
    const challenge = randomBytes(16).toString('hex')
    const code = account.code ?? String(randomInt(1_000_000)).padStart(6, '0')
    this.#challenges.set(challenge, { account, code, until: Date.now() + this.times.codeMs, tries: 0 })
    return { kind: 'challenge', challenge, code }
  }

  confirm(id: string, code: string): Confirm {
    const challenge = this.#challenges.get(id)
    if (!challenge || Date.now() > challenge.until || challenge.tries >= MOST_TRIES) {
      this.#challenges.delete(id)
      return { kind: 'gone' }
    }
    if (challenge.code !== code) return { kind: 'wrong', triesLeft: MOST_TRIES - ++challenge.tries }
    this.#challenges.delete(id)
    return this.#open(challenge.account, randomBytes(24).toString('hex'))
  }

  renew(refreshToken: string): Confirm {
    for (const [token, session] of this.#sessions)
      if (session.refreshToken === refreshToken) {
        this.#sessions.delete(token)
        return this.#open(session.account, refreshToken)
      }
    return { kind: 'gone' }
  }

  #open(account: Account, refreshToken: string): Confirm {
    const token = randomBytes(24).toString('hex')
    this.#sessions.set(token, { account, refreshToken, until: Date.now() + this.times.tokenMs })
    return { kind: 'session', token, refreshToken, expiresInMs: this.times.tokenMs }
  }

  /** The account of a token; undefined: it is not valid, or not any more. */
  of(token: string): Account | undefined {
    const session = this.#sessions.get(token)
    return session && Date.now() < session.until ? session.account : undefined
  }

  signOut(token: string): void {
    this.#sessions.delete(token)
  }

  /** Lets every token run out at once; their sessions can be renewed. */
  lapseAll(): void {
    for (const session of this.#sessions.values()) session.until = 0
  }

  /** Ends every session, as the owner does from another device. */
  endAll(): void {
    this.#sessions.clear()
  }
}
