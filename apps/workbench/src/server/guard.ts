import type { IncomingMessage } from 'node:http'

/** Sent with every answer, files included, unless it says otherwise. The content policy of pages is set where pages are made. */
export const SECURITY_HEADERS: Record<string, string> = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'no-referrer',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  // What is an owner's stays out of the browser's own store on disk, where no purge reaches it.
  'cache-control': 'no-store',
}

const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS'])

/**
 * Why a request is refused; undefined: it is not. Only our own names for this computer are answered, so that no other
 * site's name can be pointed at us; nothing is answered to another site's page, and a change must say that it comes from
 * our own. `ours`: it comes from a process of ours, which is no page.
 */
export function refusal(
  request: Pick<IncomingMessage, 'method' | 'headers' | 'url'>,
  port: number,
  ours = false,
): { status: number; message: string } | undefined {
  const hosts = [`127.0.0.1:${port}`, `localhost:${port}`]
  const { host = '', origin } = request.headers
  const site = request.headers['sec-fetch-site']
  if (!hosts.includes(host)) return { status: 421, message: `This server answers to ${hosts.join(' and ')} only.` }
  const foreign = (origin !== undefined && origin !== `http://${host}`) || (site !== undefined && !OWN_SITE.has(site))
  if (foreign) return { status: 403, message: 'This request came from another site and was refused.' }
  // The shared folder asks for its own password each time, in a header that no other site's page can set unseen.
  const said = origin !== undefined || site !== undefined || ours || (request.url ?? '').startsWith('/dav/')
  if (SAFE_METHODS.has(request.method ?? '') || said) return undefined
  return { status: 403, message: 'A change must say where it comes from: the Origin header is missing.' }
}

const OWN_SITE = new Set<unknown>(['same-origin', 'none'])
