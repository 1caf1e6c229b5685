import { database } from '../../../database/connection.js'
import { route } from '../../../server/respond.js'
import { bayNow } from '../../../services/bay.js'

export const GET = route(async () => Response.json(await bayNow(database())))
