import { integrityPage } from '@lumbrin/core/export/integrity-page'
import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { lines } from '../../../../server/stream.js'
import { integrityOf, sourceIntegrity } from '../../../../services/contents.js'
import { treeOf } from '../../../../services/trees.js'

export const GET = route(async ({ params, url }) => {
  if (url.searchParams.has('steps')) return lines((signal) => integrityOf(database(), requireId(params.source), signal))
  const report = await sourceIntegrity(database(), requireId(params.source))
  if (url.searchParams.get('download') === 'page')
    return new Response(integrityPage((await treeOf(database(), requireId(params.source))).info, report), {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-disposition': 'attachment; filename="integrity.html"',
      },
    })
  const headers: Record<string, string> = url.searchParams.has('download')
    ? { 'content-disposition': 'attachment; filename="integrity.json"' }
    : {}
  return Response.json(report, { headers })
})
