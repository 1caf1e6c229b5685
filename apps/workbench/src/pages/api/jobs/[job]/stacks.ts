import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { stacksOf } from '../../../../services/copies.js'

/** Which pictures of the job look the same. */
export const GET = route(async ({ params }) => Response.json(await stacksOf(database(), requireId(params.job))))
