import { chunksOf } from '@lumbrin/core/io/source'
import type { OpenContent } from '../services/content.js'

// Shown by the browser itself; everything else, HTML and SVG above all, is only ever offered for download.
const SHOWN = /^(image\/(jpeg|png|gif|webp|avif)|video\/(mp4|quicktime|x-m4v)|audio\/(mp4|mpeg|wav))$/

/** What a Range header asks for (RFC 9110, section 14). */
export type RangeAnswer = { kind: 'whole' } | { kind: 'part'; start: number; end: number } | { kind: 'refused' }

/** Reads a Range header; several ranges, or nonsense, mean the whole. `end` is exclusive. */
export function parseRange(header: string | null, size: number): RangeAnswer {
  const match = /^bytes=(\d*)-(\d*)$/.exec(header ?? '')
  if (!match || (match[1] === '' && match[2] === '')) return { kind: 'whole' }
  const start = match[1] === '' ? Math.max(0, size - Number(match[2])) : Number(match[1])
  const end = match[1] === '' || match[2] === '' ? size : Math.min(size, Number(match[2]) + 1)
  return start < end ? { kind: 'part', start, end } : { kind: 'refused' }
}

/** A file of a source as an answer: streamed, in ranges, never run by the browser. */
export function serveContent(request: Request, { source, name, mime }: OpenContent): Response {
  const range = parseRange(request.headers.get('range'), source.size)
  if (range.kind === 'refused') {
    void source.close()
    return new Response(null, { status: 416, headers: { 'content-range': `bytes */${source.size}` } })
  }
  const [start, end] = range.kind === 'part' ? [range.start, range.end] : [0, source.size]
  const shown = SHOWN.test(mime)
  const headers: Record<string, string> = {
    'accept-ranges': 'bytes',
    'content-length': String(end - start),
    'content-type': shown ? mime : 'application/octet-stream',
    'content-disposition': `${shown ? 'inline' : 'attachment'}; filename*=UTF-8''${encodeURIComponent(name)}`,
    'content-security-policy': "default-src 'none'; sandbox",
  }
  if (range.kind === 'part') headers['content-range'] = `bytes ${start}-${end - 1}/${source.size}`
  return new Response(streamOf(source, start, end), { status: range.kind === 'part' ? 206 : 200, headers })
}

function streamOf(source: OpenContent['source'], start: number, end: number): ReadableStream<Uint8Array> {
  const chunks = chunksOf(source, start, end)
  return new ReadableStream({
    async pull(controller) {
      const next = await chunks.next()
      if (!next.done) return controller.enqueue(next.value)
      controller.close()
      await source.close()
    },
    cancel: () => source.close(),
  })
}

/** Text that comes piece by piece. */
export function textOf(pieces: AsyncGenerator<string>): ReadableStream<Uint8Array> {
  return new ReadableStream<Uint8Array>({
    async pull(controller) {
      const next = await pieces.next()
      if (next.done) controller.close()
      else controller.enqueue(Buffer.from(next.value))
    },
    cancel: async () => void (await pieces.return(undefined)),
  })
}

/** What a generator yields, as JSON Lines while it runs. When nobody listens any more, it is told by its signal. */
export function lines(generate: (signal: AbortSignal) => AsyncGenerator<unknown>): Response {
  const stop = new AbortController()
  const items = generate(stop.signal)
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const next = await items.next()
      if (next.done) controller.close()
      else controller.enqueue(Buffer.from(`${JSON.stringify(next.value)}\n`))
    },
    cancel: () => stop.abort(),
  })
  return new Response(body, { headers: { 'content-type': 'application/jsonl; charset=utf-8' } })
}
