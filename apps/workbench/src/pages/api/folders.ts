import { fulfil } from '../../server/fulfil.js'
import { listFolders } from '../../services/folders.js'

export const GET = fulfil('GET /api/folders', ({ db, query }) => listFolders(db, query.path || null))
