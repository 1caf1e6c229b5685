import { fulfil } from '../../../../../server/fulfil.js'
import { pickFile } from '../../../../../services/contents.js'

export const POST = fulfil('POST /api/sources/{source}/files/tray', ({ db, path, body }) =>
  pickFile(db, path.source, body),
)
