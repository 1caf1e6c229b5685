import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { copiesOf } from '../../../../services/copies.js'

export const GET = route(async ({ params }) => Response.json(await copiesOf(database(), requireId(params.finding))))
