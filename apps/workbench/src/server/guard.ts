import type { IncomingMessage } from 'node:http'

/** Sent with every answer, files included. The content policy of pages is set where pages are made. */
export const SECURITY_HEADERS: Record<string, string> = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
}

const SAFE_METHODS = new Set(['GET', 'HEAD'])

/**
 * Why a request is refused; undefined: it is not. Only our own names for this computer are answered, so that no other
 * site's name can be pointed at us; and nothing is changed on the word of another site's page.
 */
export function refusal(
  request: Pick<IncomingMessage, 'method' | 'headers'>,
  port: number,
): { status: number; message: string } | undefined {
  const hosts = [`127.0.0.1:${port}`, `localhost:${port}`]
  const host = request.headers.host ?? ''
  if (!hosts.includes(host)) return { status: 421, message: `This server answers to ${hosts.join(' and ')} only.` }
  if (SAFE_METHODS.has(request.method ?? '')) return undefined
  const { origin } = request.headers
  const site = request.headers['sec-fetch-site']
  const foreign =
    origin !== undefined ? origin !== `http://${host}` : site !== undefined && site !== 'same-origin' && site !== 'none'
  return foreign ? { status: 403, message: 'This request came from another site and was refused.' } : undefined
}
