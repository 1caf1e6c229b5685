import { differenceItemLine, differencesCsv, ITEM_HEADS } from '@lumbrin/core/export/differences-csv'
import { z } from 'zod'
import { database } from '../../../../database/connection.js'
import { requireId, route } from '../../../../server/respond.js'
import { textOf } from '../../../../server/stream.js'
import { comparedItems, restoreCost } from '../../../../services/differences.js'

const schema = z.object({
  first: z.coerce.number().int().positive(),
  second: z.coerce.number().int().positive(),
  /** Every item, and not only their counts. */
  items: z.stringbool().default(false),
})

/** What two sources differ in, as a table for a spreadsheet. */
export const GET = route(async ({ params, url }) => {
  const { first, second, items } = schema.parse(Object.fromEntries(url.searchParams))
  const job = requireId(params.job)
  const headers = {
    'content-type': 'text/csv; charset=utf-8',
    'content-disposition': `attachment; filename="restore-cost${items ? '-items' : ''}.csv"`,
  }
  if (!items) {
    const { lines, notCompared } = await restoreCost(database(), job, first, second)
    return new Response(differencesCsv(lines, notCompared), { headers })
  }
  return new Response(textOf(itemLines(job, first, second)), { headers })
})

async function* itemLines(job: number, first: number, second: number): AsyncGenerator<string> {
  yield ITEM_HEADS
  for await (const item of comparedItems(database(), job, first, second)) yield differenceItemLine(item)
}
