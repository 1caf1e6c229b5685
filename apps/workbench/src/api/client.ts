import { partsOf } from './contract.js'
import type { AnswerGiven, BodyGiven, Name, NamesOf, PathGiven, QueryGiven } from './contracts.js'

/** What an endpoint said went wrong; its message is meant for the user. */
export class RequestError extends Error {
  override readonly name = 'RequestError'
  constructor(
    message: string,
    /** The kind of what went wrong, as the server names it. */
    readonly code = '',
  ) {
    super(message)
  }
}

type Given<Key extends string, Value> = [Value] extends [undefined]
  ? { [K in Key]?: undefined }
  : Record<never, never> extends Value
    ? { [K in Key]?: Value }
    : { [K in Key]: Value }

/** What goes into a request: all that the contract asks for. */
export type Request<N extends Name> = Given<'path', PathGiven<N>> &
  Given<'query', QueryGiven<N>> &
  Given<'body', BodyGiven<N>> & {
    /** Gives the request up. */
    signal?: AbortSignal | undefined
    /** Of a versioned thing that is replaced: the version that was seen. */
    version?: string
  }

type Arguments<N extends Name> =
  Record<never, never> extends Request<N> ? [request?: Request<N>] : [request: Request<N>]

/** What a request consists of, once its contract does not matter any more. */
interface Loose {
  path?: object | undefined
  query?: object | undefined
  body?: unknown
  signal?: AbortSignal | undefined
  version?: string
}

/** The address of an endpoint, for pictures, players, downloads and streams. */
export function addressOf<N extends Name>(name: N, request: Pick<Request<N>, 'path' | 'query'>): string {
  return addressIn(name, request as Loose)
}

function addressIn(name: string, { path = {}, query = {} }: Loose): string {
  const values = new Map(Object.entries(path))
  const address = partsOf(name).path.replace(/\{(\w+)\}/g, (_, key) => encodeURIComponent(String(values.get(key))))
  const said = Object.entries(query).filter(([, value]) => value !== undefined && value !== null)
  return said.length === 0
    ? address
    : `${address}?${new URLSearchParams(said.map(([key, value]) => [key, String(value)]))}`
}

/** Asks an endpoint. @throws RequestError with words for the user; the signal's reason once it is given up */
export async function ask<N extends NamesOf<'json'> | NamesOf<'nothing'>>(
  name: N,
  ...[request]: Arguments<N>
): Promise<AnswerGiven<N>> {
  const asked = (request ?? {}) as Loose
  return (await answerOf(await send(name, asked), asked.signal)) as AnswerGiven<N>
}

/** Asks an endpoint for JSON Lines and hands each on as it comes. @throws RequestError with words for the user */
export async function askLines<N extends NamesOf<'lines'>>(
  name: N,
  request: Request<N> & { signal: AbortSignal },
  take: (line: AnswerGiven<N, 'lines'>) => void,
): Promise<void> {
  const response = await send(name, request as Loose)
  if (!response.ok || !response.body) return void (await answerOf(response))
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (let next = await reader.read(); !next.done; next = await reader.read()) {
    const parts = (rest + next.value).split('\n')
    rest = parts.pop() ?? ''
    for (const part of parts) take(JSON.parse(part))
  }
}

/** A stream of server-sent events; it connects again by itself. */
export function listen<N extends NamesOf<'events'>>(
  name: N,
  request: Pick<Request<N>, 'path' | 'query'>,
  take: (event: AnswerGiven<N, 'events'>) => void,
): EventSource {
  const events = new EventSource(addressOf(name, request))
  events.onmessage = (event) => take(JSON.parse(event.data))
  return events
}

async function send(name: string, asked: Loose): Promise<Response> {
  const isFile = asked.body instanceof Blob
  const headers: Record<string, string> = {}
  if (asked.body !== undefined && !isFile) headers['content-type'] = 'application/json'
  if (asked.version !== undefined) headers['if-match'] = `"${asked.version}"`
  const body = isFile ? (asked.body as Blob) : JSON.stringify(asked.body)
  const signal = asked.signal ?? null
  return fetch(addressIn(name, asked), { method: partsOf(name).method, headers, body: body ?? null, signal }).catch(
    (thrown) => {
      if (signal?.aborted) throw thrown
      throw new RequestError('The server does not answer. Nothing was changed; start it again and reload this page.')
    },
  )
}

async function answerOf(response: Response, signal?: AbortSignal): Promise<unknown> {
  const text = await response.text().catch(() => undefined)
  // What was given up is not handed on, and an answer that broke off is no empty one.
  signal?.throwIfAborted()
  const body = parsed(text)
  if (!response.ok) {
    const { message, code } = errorIn(body)
    throw new RequestError(message ?? `The server answered with ${response.status}. Try again.`, code)
  }
  if (body === undefined)
    throw new RequestError('The answer of the server broke off. Reload this page to see how things stand.')
  return body
}

/** What an answer says; null where it says nothing. Undefined: it is not whole. */
function parsed(text: string | undefined): unknown {
  if (text === '') return null
  try {
    return text === undefined ? undefined : JSON.parse(text)
  } catch {
    return undefined
  }
}

/** The error that an answer tells of; nothing where it is none of ours. */
function errorIn(body: unknown): { message?: string; code?: string } {
  const error: unknown = typeof body === 'object' && body !== null && 'error' in body ? body.error : undefined
  if (typeof error !== 'object' || error === null) return {}
  const { message, code } = error as { message?: unknown; code?: unknown }
  return {
    ...(typeof message === 'string' ? { message } : {}),
    ...(typeof code === 'string' ? { code } : {}),
  }
}

/** The words of anything thrown. */
export const wordsOf = (thrown: unknown): string => (thrown instanceof Error ? thrown.message : String(thrown))
