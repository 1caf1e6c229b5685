import type { IncomingMessage, ServerResponse } from 'node:http'
import { setTimeout as sleep } from 'node:timers/promises'
import { LoopbackServer } from '../loopback.js'
import type { Account, Accounts } from './accounts.js'
import type { CloudData, Snapshot } from './data.js'

/** What goes wrong on purpose: every so many answers; 0: never. */
export interface Faults {
  throttleEvery: number
  dropEvery: number
  damageEvery: number
  /** Of chunks; 0: as fast as it goes. */
  bytesPerSecond: number
}

export const NO_FAULTS: Faults = { throttleEvery: 0, dropEvery: 0, damageEvery: 0, bytesPerSecond: 0 }

const PAGE = 200
const MOST_BODY = 1 << 16

/**
 * The made-up cloud service: accounts in two steps, snapshots in chunks, a library with a bin and archives. Its interface
 * is described in docs/cloud-service.openapi.json.
 */
export class CloudService extends LoopbackServer {
  readonly faults: Faults = { ...NO_FAULTS }
  /** Answers given, by first word of the path; for those who count. */
  readonly counts = new Map<string, number>()
  #asked = 0

  constructor(
    readonly accounts: Accounts,
    readonly data: CloudData,
    /** Told of codes, which a real service would send to another device. */
    readonly codeSent: (code: string) => void = () => {},
  ) {
    super()
  }

  protected async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const url = new URL(request.url ?? '/', this.address)
    const [, version, room = '', ...rest] = url.pathname.split('/')
    this.counts.set(room, (this.counts.get(room) ?? 0) + 1)
    const reply = new Reply(response)
    if (version !== 'v1') return reply.error(404, 'not-found')
    if (room === 'sessions' || room === 'tokens') return this.#signing(room, rest, request, reply)
    const account = this.accounts.of(bearer(request))
    if (!account) return reply.error(401, 'signed-out')
    this.#asked++
    if (due(this.#asked, this.faults.throttleEvery)) return reply.error(429, 'throttled', { 'retry-after': '1' })
    if (due(this.#asked, this.faults.dropEvery)) return void response.destroy()
    if (room === 'account') return reply.json(accountOf(account))
    if (room === 'chunks') return this.#chunk(rest[0] ?? '', reply)
    if (room === 'devices' || room === 'snapshots') {
      if (account.extraProtection) return reply.error(403, 'extra-protection')
      return room === 'devices' ? reply.json(this.#devices()) : this.#snapshot(rest, url, reply)
    }
    if (room === 'library') return this.#library(rest, url, reply)
    return reply.error(404, 'not-found')
  }

  async #signing(room: string, [id, action]: string[], request: IncomingMessage, reply: Reply): Promise<void> {
    if (request.method === 'DELETE') {
      this.accounts.signOut(bearer(request))
      return reply.json({})
    }
    const body = await bodyOf(request)
    if (room === 'tokens') return reply.session(this.accounts.renew(String(body.refreshToken)))
    if (id && action === 'code') return reply.session(this.accounts.confirm(id, String(body.code)))
    const result = this.accounts.signIn(String(body.account), String(body.password))
    if (result.kind === 'wrong') return reply.error(401, 'wrong-password', {}, { triesLeft: result.triesLeft })
    if (result.kind === 'locked')
      return reply.error(423, 'too-many-tries', { 'retry-after': String(Math.ceil(result.retryAfterMs / 1000)) })
    this.codeSent(result.code)
    return reply.json({ challenge: result.challenge, sentTo: 'a device that the account trusts' }, 201)
  }

  #devices() {
    const byId = new Map<string, { device: Snapshot['device']; snapshots: object[] }>()
    for (const { device, files, ...snapshot } of this.data.snapshots) {
      const known = byId.get(device.id) ?? { device, snapshots: [] }
      const { id, takenAt, complete, bytes, installedApps } = snapshot
      known.snapshots.push({ id, takenAt, complete, bytes, files: files.length, installedApps })
      byId.set(device.id, known)
    }
    return { devices: [...byId.values()].map(({ device, snapshots }) => ({ ...device, snapshots })) }
  }

  async #snapshot([id, part]: string[], url: URL, reply: Reply): Promise<void> {
    const snapshot = this.data.snapshots.find((one) => one.id === id)
    if (!snapshot || part !== 'files') return reply.error(404, 'not-found')
    reply.page('files', snapshot.files, url)
  }

  async #library([part, id]: string[], url: URL, reply: Reply): Promise<void> {
    if (part === 'photos') return reply.page('photos', this.data.photos, url)
    if (part === 'deleted-files') return reply.page('files', this.data.deletedFiles, url)
    if (part !== 'archives') return reply.error(404, 'not-found')
    if (!id)
      return reply.json({
        archives: this.data.archives.map(({ items, ...rest }) => ({ ...rest, count: items.length })),
      })
    const archive = this.data.archives.find((one) => one.id === id)
    if (!archive) return reply.error(404, 'not-found')
    reply.page('items', archive.items, url)
  }

  async #chunk(sha256: string, reply: Reply): Promise<void> {
    const bytes = await this.data.chunk(sha256)
    if (!bytes) return reply.error(404, 'not-found')
    if (this.faults.bytesPerSecond > 0) await sleep((bytes.byteLength / this.faults.bytesPerSecond) * 1000)
    if (due(this.#asked, this.faults.damageEvery)) {
      const damaged = Uint8Array.from(bytes)
      damaged[0] = (damaged[0] ?? 0) ^ 0xff
      return reply.bytes(damaged)
    }
    reply.bytes(bytes)
  }
}

const due = (count: number, every: number) => every > 0 && count % every === 0
const bearer = ({ headers }: IncomingMessage) => /^Bearer (\S+)$/.exec(headers.authorization ?? '')?.[1] ?? ''
const accountOf = ({ name, extraProtection, syncs }: Account) => ({ name, extraProtection, syncs })

async function bodyOf(request: IncomingMessage): Promise<Record<string, unknown>> {
  let text = ''
  for await (const piece of request) {
    text += piece
    if (text.length > MOST_BODY) return {}
  }
  try {
    const body: unknown = JSON.parse(text || '{}')
    return typeof body === 'object' && body !== null ? (body as Record<string, unknown>) : {}
  } catch {
    return {}
  }
}

/** The forms that answers take. */
class Reply {
  constructor(readonly response: ServerResponse) {}

  json(value: unknown, status = 200): void {
    this.response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value))
  }

  error(status: number, code: string, headers: Record<string, string> = {}, more: object = {}): void {
    this.response
      .writeHead(status, { 'content-type': 'application/json', ...headers })
      .end(JSON.stringify({ error: { code, ...more } }))
  }

  bytes(bytes: Uint8Array): void {
    this.response
      .writeHead(200, { 'content-type': 'application/octet-stream', 'content-length': bytes.byteLength })
      .end(bytes)
  }

  session(result: ReturnType<Accounts['confirm']>): void {
    if (result.kind === 'wrong') this.error(401, 'wrong-code', {}, { triesLeft: result.triesLeft })
    else if (result.kind === 'gone') this.error(410, 'code-expired')
    else {
      const { token, refreshToken, expiresInMs } = result
      this.json({ token, refreshToken, expiresInSeconds: Math.floor(expiresInMs / 1000) })
    }
  }

  /** A part of a long list, with the cursor to the next. */
  page(name: string, all: readonly unknown[], url: URL): void {
    const from = Number(url.searchParams.get('cursor') ?? 0) || 0
    const next = from + PAGE < all.length ? String(from + PAGE) : null
    this.json({ [name]: all.slice(from, from + PAGE), next })
  }
}
