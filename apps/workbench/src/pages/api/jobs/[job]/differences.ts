import { differencesCsv } from '@lumbrin/core/export/differences-csv'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { sourceDifferences } from '../../../../services/differences.js'

const schema = z.object({ first: z.coerce.number().int().positive(), second: z.coerce.number().int().positive() })

/** What two sources differ in, as a table for a spreadsheet. */
export const GET = route(async ({ params, url }) => {
  const { first, second } = schema.parse(Object.fromEntries(url.searchParams))
  const lines = await sourceDifferences(database(), requireId(params.job), first, second)
  return new Response(differencesCsv(lines), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="restore-cost.csv"',
    },
  })
})
