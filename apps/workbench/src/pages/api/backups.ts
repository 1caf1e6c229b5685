import { database } from '../../database/connection.js'
import { route } from '../../server/respond.js'
import { discoverBackups } from '../../services/sources.js'

export const GET = route(async () => Response.json(await discoverBackups(database())))
