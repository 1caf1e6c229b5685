import { database } from '../../../../../database/connection.js'
import { requireId, route } from '../../../../../server/respond.js'
import { returnTargets } from '../../../../../services/returning.js'

/** Attached devices of the job's owner that items may go back to. */
export const GET = route(async ({ params }) => Response.json(await returnTargets(database(), requireId(params.job))))
