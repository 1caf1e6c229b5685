import { database } from '../../database/connection.js'
import { route } from '../../server/respond.js'
import { listFolders } from '../../services/folders.js'

export const GET = route(async ({ url }) =>
  Response.json(await listFolders(database(), url.searchParams.get('path') || null)),
)
