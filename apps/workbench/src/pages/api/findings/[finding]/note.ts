import { fulfil } from '../../../../server/fulfil.js'
import { noteFinding } from '../../../../services/notes.js'

export const PUT = fulfil('PUT /api/findings/{finding}/note', ({ db, path, body }) =>
  noteFinding(db, path.finding, body.text),
)
