import { database } from '../../database/connection.js'
import { countActiveReads } from '../../database/sources.js'
import { route } from '../../server/respond.js'

export const GET = route(async () => Response.json({ reads: await countActiveReads(database()) }))
