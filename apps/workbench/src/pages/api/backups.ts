import { fulfil } from '../../server/fulfil.js'
import { searchForBackups } from '../../services/sources.js'

export const GET = fulfil('GET /api/backups', ({ db, query }, signal) => searchForBackups(db, query.folder, signal))
