import { database } from '../../database/connection.js'
import { route } from '../../server/respond.js'
import { lines } from '../../server/stream.js'
import { searchForBackups } from '../../services/sources.js'

export const GET = route(async ({ url }) =>
  lines((signal) => searchForBackups(database(), url.searchParams.get('folder'), signal)),
)
