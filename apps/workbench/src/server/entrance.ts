import type { IncomingMessage, ServerResponse } from 'node:http'
import { messageOf } from '@lumbrin/core/io/errors'
import { readConfig } from '../config.js'
import { connect, type Db } from '../database/connection.js'
import { damagedTables, WHAT_TO_DO } from '../database/damage.js'
import { migrate } from '../database/migrate.js'
import { sessionsIn } from '../database/sessions.js'
import { purgeLeftOver } from '../services/purging.js'
import { removeLeftOver } from '../services/removing.js'
import { settleLeftOver } from '../services/settling.js'
import { Access } from './access.js'
import { passes } from './door.js'
import { SECURITY_HEADERS } from './guard.js'

export const say = (text: string) => void process.stderr.write(`lumbrin: ${text}\n`)

/** What stands in front of the application, whichever server runs it. */
export interface Entrance {
  access: Access
  /** True where a request may go on; the others were answered. */
  admit(request: IncomingMessage, response: ServerResponse): Promise<boolean>
}

/** Brings the database up to date, finishes what a killed server left undone, and opens the door. */
export async function openEntrance(): Promise<Entrance> {
  const { port, databaseUrl, dataFolder, readerSecret: secret } = readConfig()
  const db = connect(databaseUrl)
  await migrate(db)
  const access = new Access(port, dataFolder, sessionsIn(db))
  await access.open()
  // Nobody waits for it.
  purgeLeftOver(db)
    .then(() => settleLeftOver(db))
    .then(() => removeLeftOver(db))
    .then(() => tellDamage(db))
    .catch((thrown: unknown) => say(messageOf(thrown)))
  const admit = async (request: IncomingMessage, response: ServerResponse) => {
    for (const [name, value] of Object.entries(SECURITY_HEADERS)) response.setHeader(name, value)
    try {
      return await passes(request, response, { access, port, secret })
    } catch (thrown) {
      say(messageOf(thrown))
      response.writeHead(503).end()
      return false
    }
  }
  return { access, admit }
}

async function tellDamage(db: Db): Promise<void> {
  const damaged = await damagedTables(db)
  if (damaged.length > 0)
    say(`these tables are damaged, and what jobs have in them cannot be shown: ${damaged.join(', ')}. ${WHAT_TO_DO}`)
}
