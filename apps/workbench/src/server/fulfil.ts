import type { APIContext, APIRoute } from 'astro'
import { z } from 'zod'
import type { Answer, Contract } from '../api/contract.js'
import {
  type AnswerOf,
  type BodyOf,
  CONTRACTS,
  type Name,
  type NamesOf,
  type PathOf,
  type QueryOf,
} from '../api/contracts.js'
import { PARAMETERS } from '../api/parameters.js'
import { type Db, database } from '../database/connection.js'
import { AppError } from '../domain/errors.js'
import { bodyOf, route } from './respond.js'
import { lines } from './stream.js'

/** What was asked, parsed by its contract. */
export interface Asked<N extends Name> {
  db: Db
  path: PathOf<N>
  query: QueryOf<N>
  body: BodyOf<N>
  /** Of a versioned thing that is replaced: the version that was seen; else empty. */
  seen: string
  request: Request
}

type Handler<N extends Name, Given> = (asked: Asked<N>) => Given

/** Makes an endpoint of what fulfils its contract: an answer, nothing, or lines as they come. */
export function fulfil<N extends NamesOf<'json'>>(name: N, handle: Handler<N, Promise<AnswerOf<N>>>): APIRoute
export function fulfil<N extends NamesOf<'nothing'>>(name: N, handle: Handler<N, Promise<void>>): APIRoute
export function fulfil<N extends NamesOf<'file' | 'events'>>(name: N, handle: Handler<N, Promise<Response>>): APIRoute
export function fulfil<N extends NamesOf<'lines'>>(
  name: N,
  handle: (asked: Asked<N>, signal: AbortSignal) => AsyncGenerator<AnswerOf<N, 'lines'>>,
): APIRoute
export function fulfil<N extends Name>(name: N, handle: (asked: Asked<N>, signal: AbortSignal) => unknown): APIRoute {
  const contract: Contract = CONTRACTS[name]
  return route(async (context) => {
    const asked = await parsedBy(contract, context)
    // What the overloads ask of each kind of answer holds for what they name.
    const given = (signal: AbortSignal) => handle(asked as Asked<N>, signal)
    if (contract.answer.kind === 'lines') return lines((signal) => given(signal) as AsyncGenerator<unknown>)
    return answered(contract, await given(context.request.signal))
  })
}

async function parsedBy(contract: Contract, { params, url, request }: APIContext): Promise<Asked<Name>> {
  const { query, body } = contract
  const asked = {
    db: database(),
    path: Object.fromEntries(
      Object.entries(params).map(([name, text]) => [name, isParameter(name) ? parameter(name, text) : text]),
    ),
    query: query?.parse(Object.fromEntries(url.searchParams)),
    body: body === undefined || body === 'file' ? undefined : await bodyOf(request, body),
    seen: contract.versioned && request.method === 'PUT' ? versionSeen(request) : '',
    request,
  }
  return asked as unknown as Asked<Name>
}

/** A part of the path. @throws AppError('not-found'): nothing has such a name */
export function parameter<P extends keyof typeof PARAMETERS>(name: P, text: string | undefined) {
  const parsed = PARAMETERS[name].safeParse(text) as z.ZodSafeParseResult<z.output<(typeof PARAMETERS)[P]>>
  if (!parsed.success) throw new AppError('not-found', 'There is no such thing here.')
  return parsed.data
}

const isParameter = (name: string): name is keyof typeof PARAMETERS => Object.hasOwn(PARAMETERS, name)

function answered(contract: Contract, given: unknown): Response {
  const { answer } = contract
  if (given instanceof Response) return withSecrecy(contract, given)
  if (answer.kind === 'nothing') return new Response(null, { status: answer.status })
  if (answer.kind !== 'json') throw new Error(`an answer of the kind ${answer.kind} is a Response`)
  const text = JSON.stringify(given ?? null)
  if (process.env.LUMBRIN_CHECK_ANSWERS) check(answer, text)
  const headers = new Headers({ 'content-type': 'application/json' })
  if (contract.versioned) headers.set('etag', `"${(given as { version: string }).version}"`)
  return withSecrecy(contract, new Response(text, { status: answer.status, headers }))
}

function withSecrecy(contract: Contract, response: Response): Response {
  if (contract.secret) response.headers.set('cache-control', 'no-store')
  return response
}

/** Tests hold every answer against its contract, unknown properties among what is wrong. @throws ZodError */
function check(answer: Extract<Answer, { kind: 'json' }>, text: string): void {
  const { error } = answer.schema.safeParse(JSON.parse(text))
  if (error) throw new Error(`an answer breaks its contract: ${z.prettifyError(error)}`)
}

/** The version that whoever changes something has seen (RFC 9110, section 13.1.1). @throws AppError('invalid') */
function versionSeen(request: Request): string {
  const version = /^"([0-9a-f]{16})"$/.exec(request.headers.get('if-match') ?? '')?.[1]
  if (version === undefined)
    throw new AppError('invalid', 'A change says which version of it was seen: the If-Match header is missing.')
  return version
}
