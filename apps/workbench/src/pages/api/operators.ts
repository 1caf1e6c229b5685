import { actingNow } from '../../database/acting.js'
import { database } from '../../database/connection.js'
import { knownOperators } from '../../database/log.js'
import { route } from '../../server/respond.js'

/** Who works at this browser, and who is known from any log. */
export const GET = route(async () => Response.json({ current: actingNow(), known: await knownOperators(database()) }))
