import { integrityPage } from '@lumbrin/core/export/integrity-page'
import { fulfil } from '../../../../../server/fulfil.js'
import { sourceIntegrity } from '../../../../../services/contents.js'
import { treeOf } from '../../../../../services/trees.js'

export const GET = fulfil('GET /api/sources/{source}/integrity/page', async ({ db, path }) => {
  const headers = {
    'content-type': 'text/html; charset=utf-8',
    'content-disposition': 'attachment; filename="integrity.html"',
  }
  const report = await sourceIntegrity(db, path.source)
  return new Response(integrityPage((await treeOf(db, path.source)).info, report), { headers })
})
