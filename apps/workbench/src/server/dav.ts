import type { Db } from '../database/connection.js'
import { AppError } from '../domain/errors.js'
import type { JobId } from '../domain/ids.js'
import { type Node, nodeAt, nodesIn, openNode, tableAt } from '../services/shared-folder.js'
import { askedIn, responseOf } from './dav-properties.js'
import { textWithin } from './limits.js'
import { serveContent } from './stream.js'

const METHODS = 'OPTIONS, GET, HEAD, PROPFIND'
// What a client asks for takes some hundred bytes.
const MOST_ASKED_BYTES = 64 << 10

/** A read-only network folder: WebDAV of class 1 (RFC 4918), as far as reading goes. `base` ends with "/". */
export async function answerDav(
  db: Db,
  jobId: JobId,
  request: Request,
  base: string,
  path: readonly string[],
): Promise<Response> {
  const { method } = request
  if (method === 'OPTIONS') return new Response(null, { status: 200, headers: { dav: '1', allow: METHODS } })
  if (method !== 'GET' && method !== 'HEAD' && method !== 'PROPFIND')
    return new Response('This folder can be read, and not changed.', { status: 405, headers: { allow: METHODS } })
  const node = await nodeAt(db, jobId, path)
  if (!node) return new Response('There is no such file or folder.', { status: 404 })
  if (method === 'PROPFIND') return propertiesOf(db, jobId, request, base, path, node)
  return content(db, jobId, request, path, node)
}

async function content(db: Db, jobId: JobId, request: Request, path: readonly string[], node: Node): Promise<Response> {
  if (node.kind === 'folder') return new Response('This is a folder; open it with a file manager.', { status: 200 })
  const table = node.finding === undefined ? await tableAt(db, jobId, path) : undefined
  if (table) return tableAnswer(request, table, node.bytes)
  try {
    return serveContent(request, await openNode(db, node))
  } catch (thrown) {
    if (thrown instanceof AppError) return new Response(thrown.message, { status: thrown.status })
    throw thrown
  }
}

function tableAnswer(request: Request, table: AsyncGenerator<string>, bytes: number | undefined): Response {
  // A table that changed since it was measured breaks off, and is asked for again.
  const headers = {
    'content-type': 'text/csv; charset=utf-8',
    ...(bytes === undefined ? {} : { 'content-length': String(bytes) }),
  }
  if (request.method === 'HEAD') return new Response(null, { headers })
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const next = await table.next()
      if (next.done) controller.close()
      else controller.enqueue(Buffer.from(next.value))
    },
    cancel: () => void table.return(undefined),
  })
  return new Response(body, { headers })
}

async function propertiesOf(
  db: Db,
  jobId: JobId,
  request: Request,
  base: string,
  path: readonly string[],
  node: Node,
): Promise<Response> {
  const depth = request.headers.get('depth') ?? 'infinity'
  // RFC 4918, section 9.1: a server may refuse to list everything at once.
  if (depth !== '0' && depth !== '1') return xml(403, '<D:error xmlns:D="DAV:"><D:propfind-finite-depth/></D:error>')
  const asked = await askedBy(request)
  if (!asked) return new Response('What is asked for is not well formed.', { status: 400 })
  const inside = depth === '1' && node.kind === 'folder' ? ((await nodesIn(db, jobId, path)) ?? []) : []
  const address = (parts: readonly string[], kind: Node['kind']) =>
    `${base}${parts.map(encodeURIComponent).join('/')}${kind === 'folder' && parts.length > 0 ? '/' : ''}`
  const parts = [
    responseOf(address(path, node.kind), node, asked),
    ...inside.map((one) => responseOf(address([...path, one.name], one.kind), one, asked)),
  ]
  return xml(207, `<D:multistatus xmlns:D="DAV:">${parts.join('')}</D:multistatus>`)
}

async function askedBy(request: Request) {
  return askedIn(await textWithin(request, MOST_ASKED_BYTES))
}

const xml = (status: number, body: string) =>
  new Response(`<?xml version="1.0" encoding="utf-8"?>\n${body}`, {
    status,
    headers: { 'content-type': 'application/xml; charset=utf-8' },
  })
