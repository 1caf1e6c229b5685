import { fulfil } from '../../../../server/fulfil.js'
import { notesOf } from '../../../../services/notes.js'

export const GET = fulfil('GET /api/jobs/{job}/notes', ({ db, path }) => notesOf(db, path.job))
