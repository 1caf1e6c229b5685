import { setTimeout as sleep } from 'node:timers/promises'
import type { z } from 'zod'
import { CloudError, type CloudErrorCode } from './errors.js'
import { Challenge, Failure, Session } from './wire.js'

/** Gives a token that is valid. `stale`: the one that the service refused just now; a newer one is wanted. */
export type Tokens = (stale?: string) => Promise<string>

const PATIENCE_MS = 30_000
const FIRST_WAIT_MS = 200
const LONGEST_WAIT_MS = 20_000
const MOST_TRIES = 7
// A line that is down is told soon: whoever asks can go on later, and other work need not wait behind it.
const TRIES_OF_A_DEAD_LINE = 4

const BY_NAME: Record<string, CloudErrorCode> = {
  'wrong-password': 'wrong-password',
  'too-many-tries': 'too-many-tries',
  'wrong-code': 'wrong-code',
  'code-expired': 'code-expired',
  'signed-out': 'signed-out',
  'extra-protection': 'extra-protection',
  throttled: 'busy',
  'not-found': 'gone',
}

/** Questions to the service, asked again with longer and longer waits where it is busy or the line breaks. */
export class CloudLine {
  constructor(
    readonly address: string,
    readonly tokens: Tokens,
    readonly signal: AbortSignal = new AbortController().signal,
  ) {}

  /** An answer, checked. @throws CloudError */
  async json<T extends z.ZodType>(path: string, schema: T): Promise<z.infer<T>> {
    const parsed = schema.safeParse(parsedJson(await this.bytes(path)))
    if (!parsed.success)
      throw new CloudError(
        'damaged',
        'The cloud service answered with something that is no answer. Nothing of it was kept.',
        {
          cause: parsed.error,
        },
      )
    return parsed.data
  }

  /** The bytes of an answer. `accept` false: they are damaged, and are asked for again. @throws CloudError */
  async bytes(path: string, accept: (bytes: Uint8Array) => boolean = () => true): Promise<Uint8Array> {
    let token = await this.tokens()
    let renewed = false
    let last: CloudError = new CloudError('unreachable')
    // In a row: a service that answers in between is there, however badly.
    let unreachable = 0
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      if (tries > 0) await this.#wait(last, tries)
      const result = await this.#once(path, token)
      if (result instanceof Uint8Array) {
        if (accept(result)) return result
        unreachable = 0
        last = new CloudError('damaged')
        continue
      }
      if (result.code === 'signed-out' && !renewed) {
        // The token ran out amid the work: that is no try.
        renewed = true
        token = await this.tokens(token)
        tries--
        continue
      }
      if (!['busy', 'unreachable'].includes(result.code)) throw result
      unreachable = result.code === 'unreachable' ? unreachable + 1 : 0
      if (unreachable >= TRIES_OF_A_DEAD_LINE) throw result
      last = result
    }
    throw last
  }

  async #wait(last: CloudError & { retryAfterMs?: number }, tries: number): Promise<void> {
    const growing = FIRST_WAIT_MS * 2 ** tries * (0.75 + Math.random() / 2)
    try {
      await sleep(Math.min(LONGEST_WAIT_MS, last.retryAfterMs ?? growing), undefined, { signal: this.signal })
    } catch {
      throw new CloudError('stopped')
    }
  }

  async #once(path: string, token: string): Promise<Uint8Array | CloudError> {
    try {
      const signal = AbortSignal.any([this.signal, AbortSignal.timeout(PATIENCE_MS)])
      const answer = await fetch(`${this.address}/v1${path}`, { headers: { authorization: `Bearer ${token}` }, signal })
      if (!answer.ok) return await failureOf(answer)
      return await bytesOf(answer)
    } catch (cause) {
      if (this.signal.aborted) throw new CloudError('stopped')
      if (cause instanceof CloudError) throw cause
      return new CloudError('unreachable', undefined, { cause })
    }
  }
}

// A page of files with their pieces stays far below; more is meant to exhaust memory.
const MOST_ANSWER = 32 << 20

async function bytesOf(answer: Response): Promise<Uint8Array> {
  const pieces: Uint8Array[] = []
  let size = 0
  for await (const piece of (answer.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    size += piece.byteLength
    if (size > MOST_ANSWER)
      throw new CloudError('damaged', 'The cloud service sent more than it should. Nothing of it was kept.')
    pieces.push(piece)
  }
  return new Uint8Array(Buffer.concat(pieces))
}

/** Undefined where it is no JSON, which no schema takes. */
function parsedJson(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(Buffer.from(bytes).toString('utf8'))
  } catch {
    return undefined
  }
}

async function failureOf(answer: Response): Promise<CloudError & { retryAfterMs?: number }> {
  const failure = Failure.safeParse(await answer.json().catch(() => undefined))
  const { code: name, triesLeft } = failure.success ? failure.data.error : { code: '', triesLeft: undefined }
  const code = BY_NAME[name] ?? (answer.status >= 500 ? 'unreachable' : 'gone')
  const seconds = Number(answer.headers.get('retry-after') ?? Number.NaN)
  const error = new CloudError(code)
  if (triesLeft !== undefined) error.message += ` ${triesLeft} ${triesLeft === 1 ? 'try is' : 'tries are'} left.`
  if (code === 'too-many-tries' && seconds > 0) error.message += ` Try again in ${Math.ceil(seconds / 60)} min.`
  return Number.isFinite(seconds) ? Object.assign(error, { retryAfterMs: seconds * 1000 }) : error
}

/** The first step of signing in; the service sends a code to a device of the owner's. @throws CloudError */
export const beginSignIn = (address: string, account: string, password: string) =>
  post(`${address}/v1/sessions`, { account, password }, Challenge)

/** The second step. @throws CloudError */
export const confirmSignIn = (address: string, challenge: string, code: string) =>
  post(`${address}/v1/sessions/${encodeURIComponent(challenge)}/code`, { code }, Session)

/** A new token for a session that goes on. @throws CloudError('signed-out') where it has ended */
export const renewSession = (address: string, refreshToken: string) =>
  post(`${address}/v1/tokens`, { refreshToken }, Session).catch((thrown: unknown) => {
    throw thrown instanceof CloudError && thrown.code === 'code-expired' ? new CloudError('signed-out') : thrown
  })

/** Ends a session at the service; that it is unreachable is no matter. */
export async function signOut(address: string, token: string): Promise<void> {
  await fetch(`${address}/v1/sessions/current`, {
    method: 'DELETE',
    headers: { authorization: `Bearer ${token}` },
    signal: AbortSignal.timeout(PATIENCE_MS),
  }).catch(() => {})
}

async function post<T extends z.ZodType>(address: string, body: object, schema: T): Promise<z.infer<T>> {
  const answer = await fetch(address, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(PATIENCE_MS),
  }).catch((cause: unknown) => {
    throw new CloudError('unreachable', undefined, { cause })
  })
  if (!answer.ok) throw await failureOf(answer)
  return schema.parse(await answer.json())
}
