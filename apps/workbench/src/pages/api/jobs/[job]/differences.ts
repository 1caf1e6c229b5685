import { differenceItemHeads, differenceItemLine, differencesCsv } from '@lumbrin/core/export/differences-csv'
import type { ComparedItem } from '../../../../domain/difference.js'
import { fulfil } from '../../../../server/fulfil.js'
import { textOf } from '../../../../server/stream.js'
import { comparedItems, restoreCost } from '../../../../services/differences.js'
import { requireJob } from '../../../../services/jobs.js'

export const GET = fulfil('GET /api/jobs/{job}/differences', async ({ db, path, query }) => {
  const { first, second, items } = query
  const headers = {
    'content-type': 'text/csv; charset=utf-8',
    'content-disposition': `attachment; filename="restore-cost${items ? '-items' : ''}.csv"`,
  }
  if (items) {
    const { timeZone } = await requireJob(db, path.job)
    return new Response(textOf(itemLines(comparedItems(db, path.job, first, second), timeZone)), { headers })
  }
  const { lines, notCompared } = await restoreCost(db, path.job, first, second)
  return new Response(differencesCsv(lines, notCompared), { headers })
})

async function* itemLines(items: AsyncIterable<ComparedItem>, zone: string): AsyncGenerator<string> {
  yield differenceItemHeads(zone)
  for await (const item of items) yield differenceItemLine(item, zone)
}
