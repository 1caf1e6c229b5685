import type { IncomingMessage, Server } from 'node:http'
import type { Socket } from 'node:net'
import { AppError } from '../domain/errors.js'

const HEADERS_MS = 15_000
// Somebody who sends nothing for so long in the middle of a request does not come back.
const SILENCE_MS = 30_000
const MOST_CONNECTIONS = 2000
// A body that is read into memory comes within this, whatever its pieces are.
const BODY_MS = 30_000

/** Cuts off clients that hold a connection and send nothing. Whole requests have no limit: bringing a backup takes long. */
export function limitClients(server: Server, { headersMs = HEADERS_MS, silenceMs = SILENCE_MS } = {}): void {
  server.requestTimeout = 0
  server.headersTimeout = headersMs
  server.maxConnections = MOST_CONNECTIONS
  server.timeout = silenceMs
  const last = new WeakMap<Socket, IncomingMessage>()
  server.on('request', (request: IncomingMessage) => void last.set(request.socket, request))
  // Where all was sent it is we who are silent: an event stream, a long question.
  server.on('timeout', (socket: Socket) => {
    if (last.get(socket)?.complete !== true) socket.destroy()
  })
}

/**
 * A request's body as text, counted as it comes: what a client announces is not believed.
 * @throws AppError('invalid') where it is larger than `most` bytes, or does not come in time
 */
export async function textWithin(request: Request, most: number, withinMs = BODY_MS): Promise<string> {
  const pieces: Uint8Array[] = []
  let bytes = 0
  const reader = request.body?.getReader()
  if (!reader) return ''
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new AppError('invalid', 'The request did not come in time.')), withinMs)
  })
  try {
    for (;;) {
      const { done, value } = await Promise.race([reader.read(), late])
      if (done) return Buffer.concat(pieces).toString('utf8')
      bytes += value.byteLength
      if (bytes > most) throw new AppError('invalid', 'The request is too large.')
      pieces.push(value)
    }
  } finally {
    clearTimeout(timer)
    await reader.cancel().catch(() => {})
  }
}
