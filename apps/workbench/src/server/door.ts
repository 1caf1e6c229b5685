import { timingSafeEqual } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { CONTRACTS } from '../api/contracts.js'
import { HEADER as SECRET_HEADER } from '../services/internal.js'
import type { Access } from './access.js'
import { CLOSED_PAGE } from './closed-page.js'
import { refusal } from './guard.js'

/** In which the application is told who works at the browser that asks. */
export const OPERATOR_HEADER = 'x-lumbrin-operator'

const TEXT = { 'content-type': 'text/plain; charset=utf-8' }

/**
 * Decides about each request before the application sees it. True: it may go on. False: it was answered.
 * `secret`: what our own processes show instead of a session.
 */
export async function passes(
  request: IncomingMessage,
  response: ServerResponse,
  { access, port, secret }: { access: Access; port: number; secret: string | undefined },
): Promise<boolean> {
  // Nobody says it but we.
  delete request.headers[OPERATOR_HEADER]
  const ours = isSecret(request.headers[SECRET_HEADER], secret)
  const refused = refusal(request, port, ours)
  if (refused) return end(response, refused.status, TEXT, refused.message)
  const url = addressOf(request)
  if (!url) return end(response, 400, TEXT, 'This is no address.')
  // Both sides decide about the same path.
  request.url = url.pathname + url.search
  // The image scaler of the framework takes any size; pictures are scaled in a process of their own.
  if (url.pathname === '/_image') return end(response, 404, TEXT, 'There is no such thing here.')
  // The shared folder has a password of its own: file managers know no sessions.
  if (ours || url.pathname.startsWith('/dav/')) return true
  const { cookie } = request.headers
  if (url.pathname === '/enter') return enter(response, access, url.searchParams.get('key') ?? '', cookie)
  if (!access.knows(cookie)) return closed(response, url.pathname)
  request.headers[OPERATOR_HEADER] = encodeURIComponent(access.operatorOf(cookie))
  return url.pathname === '/api/session' ? session(request, response, access, url) : true
}

const MOST_BODY = 4096

/** Says who works at a browser, or ends its session. */
async function session(request: IncomingMessage, response: ServerResponse, access: Access, url: URL): Promise<false> {
  const { cookie } = request.headers
  if (request.method === 'DELETE')
    return end(response, 204, { 'set-cookie': await access.leave(cookie, url.searchParams.get('all') === 'true') })
  if (request.method !== 'PUT')
    return end(response, 405, { ...TEXT, allow: 'PUT, DELETE' }, 'A session is named or ended.')
  const body = CONTRACTS['PUT /api/session'].body.safeParse(parsedJson(await bodyWithin(request, MOST_BODY)))
  if (!body.success) return end(response, 400, TEXT, 'Say who works, in a name of at most 100 characters.')
  await access.nameOperator(cookie, body.data.operator.toWellFormed())
  return end(response, 204, {})
}

/** A small body; undefined where it is larger. */
async function bodyWithin(request: IncomingMessage, most: number): Promise<string | undefined> {
  const pieces: Buffer[] = []
  let bytes = 0
  for await (const piece of request as AsyncIterable<Buffer>) {
    bytes += piece.byteLength
    if (bytes > most) return undefined
    pieces.push(piece)
  }
  return Buffer.concat(pieces).toString('utf8')
}

function parsedJson(text: string | undefined): unknown {
  try {
    return JSON.parse(text ?? '')
  } catch {
    return undefined
  }
}

async function enter(response: ServerResponse, access: Access, key: string, cookies: string | undefined) {
  // Whoever opens the used address again is in already.
  const cookie = access.knows(cookies) ? undefined : await access.enter(key)
  if (!cookie && !access.knows(cookies)) return closed(response, '/enter')
  return end(response, 303, { location: '/', ...(cookie ? { 'set-cookie': cookie } : {}) })
}

function closed(response: ServerResponse, path: string): false {
  if (!path.startsWith('/api/'))
    return end(
      response,
      401,
      {
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy':
          "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; frame-ancestors 'none'",
      },
      CLOSED_PAGE,
    )
  const message =
    'This browser has not been let in, or its time ran out. “npm run open” prints an address that lets it in.'
  return end(
    response,
    401,
    { 'content-type': 'application/json' },
    JSON.stringify({ error: { code: 'closed', message } }),
  )
}

function end(response: ServerResponse, status: number, headers: Record<string, string>, text = ''): false {
  // What a refused request still sends is not waited for.
  response.writeHead(status, { connection: 'close', ...headers }).end(text)
  return false
}

function isSecret(shown: string | string[] | undefined, secret: string | undefined): boolean {
  const given = Buffer.from(typeof shown === 'string' ? shown : '')
  const wanted = Buffer.from(secret ?? '')
  return wanted.length > 0 && given.length === wanted.length && timingSafeEqual(given, wanted)
}

function addressOf({ url = '/' }: IncomingMessage): URL | undefined {
  try {
    return new URL(url.startsWith('/') ? `http://127.0.0.1${url}` : url)
  } catch {
    return undefined
  }
}
