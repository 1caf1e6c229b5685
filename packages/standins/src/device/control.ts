import { randomUUID } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { insert } from '../demo/stores/store.js'
import { LoopbackServer } from '../loopback.js'
import { CONTROL_PAGE } from './control-page.js'
import type { StandInDevice, Switches } from './device.js'
import { BackupFiles } from './files.js'
import type { RecoveryBench } from './recovery.js'

/** The demo's control page for made-up devices, and the channel to those that do not start. Loopback only. */
export class ControlServer extends LoopbackServer {
  constructor(
    readonly devices: readonly StandInDevice[],
    readonly bench: RecoveryBench,
  ) {
    super()
  }

  protected async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    // Pages of other sites may neither look nor switch.
    const own = [this.address, this.address.replace('127.0.0.1', 'localhost')]
    const { host = '', origin } = request.headers
    if (!own.includes(`http://${host}`) || (origin && !own.includes(origin))) return void response.writeHead(403).end()
    const url = new URL(request.url ?? '/', this.address)
    const [, room, id = '', action] = url.pathname.split('/')
    const json = (value: unknown, status = 200) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value))
    if (room === '') return void response.writeHead(200, PAGE_HEADERS).end(CONTROL_PAGE)
    if (room === 'devices' && id === '') return void json(this.devices.map(shown))
    if (room === 'devices' && request.method === 'POST') return void json(await this.#switch(id, request))
    if (room === 'recovery' && id === '') return void json(this.bench.waiting())
    if (room === 'images' && id === '') return void json(this.bench.images(url.searchParams.get('product') ?? ''))
    if (room === 'images') {
      response.writeHead(200, { 'content-type': 'application/octet-stream' })
      for (const piece of this.bench.content(id))
        if (!response.write(piece)) await new Promise((go) => response.once('drain', go))
      return void response.end()
    }
    if (room === 'recovery' && action === 'leave') return void json({ done: this.bench.leave(id) })
    if (room === 'recovery' && action === 'install') {
      const keep = url.searchParams.get('keep') === '1'
      const done = await this.bench.install(id, url.searchParams.get('image') ?? '', keep, request)
      return void json({ done }, done ? 200 : 422)
    }
    response.writeHead(404).end()
  }

  async #switch(udid: string, request: IncomingMessage): Promise<{ done: boolean }> {
    const device = this.devices.find(({ identity }) => identity.udid === udid)
    let body = ''
    for await (const piece of request) body += piece
    const { fill, ...switches } = JSON.parse(body || '{}') as Partial<Switches> & { fill?: boolean }
    if (!device) return { done: false }
    if (fill) fillWithNewData(device)
    device.set(switches)
    return { done: true }
  }
}

const PAGE_HEADERS = {
  'content-type': 'text/html; charset=utf-8',
  'content-security-policy': "default-src 'self' 'unsafe-inline'; frame-ancestors 'none'",
}

const shown = ({ identity, switches, sentBytes }: StandInDevice) => ({ ...identity, ...switches, sentBytes })

const NEW_MESSAGES = 400

/** Somebody goes on using the phone: new rows are written where deleted ones were. */
function fillWithNewData({ files }: StandInDevice): void {
  if (!(files instanceof BackupFiles)) return
  files.inDatabase('HomeDomain', 'Library/SMS/sms.db', (database) => {
    database.exec('BEGIN')
    for (let i = 0; i < NEW_MESSAGES; i++)
      insert(database, 'message', {
        guid: randomUUID().toUpperCase(),
        text: `Rehearsal moved again, see the list by the door (${i + 1})`,
        handle_id: 1,
        service: 'iMessage',
        date: (Date.now() - Date.UTC(2001, 0, 1)) * 1e6,
        is_from_me: i % 2,
      })
    database.exec('COMMIT')
  })
}
