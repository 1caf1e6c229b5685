import { database } from '../../../../database/connection.js'
import { daysOfMonth } from '../../../../database/days.js'
import { pageOfFindings } from '../../../../database/pages.js'
import { pointsOf } from '../../../../database/points.js'
import { requireId, route } from '../../../../server/respond.js'
import { conversationsOf, facetsOf, suggestionsOf, timelineOf } from '../../../../services/progress.js'
import { parseQuery } from '../../../../services/search.js'

/** Findings of a filter: a page of them, their conversations, places, days, or their counts by category and standing. */
export const GET = route(async ({ params, url }) => {
  const job = requireId(params.job)
  const { view, filter, after, month } = parseQuery(url.searchParams)
  if (view === 'facets') return Response.json(await facetsOf(database(), job, filter.words))
  if (view === 'conversations') return Response.json(await conversationsOf(database(), job, filter))
  if (view === 'timeline') return Response.json(await timelineOf(database(), job, filter))
  if (view === 'points') return Response.json(await pointsOf(database(), job, filter))
  if (view === 'days') return Response.json(await daysOfMonth(database(), job, filter, month))
  if (view === 'suggestions') return Response.json(await suggestionsOf(database(), job, filter.category))
  return Response.json(await pageOfFindings(database(), job, filter, after))
})
