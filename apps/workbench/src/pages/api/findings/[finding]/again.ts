import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { tryContentAgain } from '../../../../services/trying-again.js'

/** Looks once more for contents of a finding that could not be had. */
export const POST = route(async ({ params }) =>
  Response.json(await tryContentAgain(database(), requireId(params.finding))),
)
