import { CATEGORY_IDS } from '@lumbrin/core/categories/types'
import { STANDINGS } from '@lumbrin/core/findings/standing'
import { z } from 'zod'
import type { FindingFilter, PageEnd } from '../database/queries.js'

const schema = z.object({
  view: z.enum(['page', 'facets', 'conversations', 'timeline']).default('page'),
  category: z.enum(CATEGORY_IDS).default('photos'),
  standings: z.preprocess(
    (text) => (typeof text === 'string' && text !== '' ? text.split(',') : []),
    z.array(z.enum(STANDINGS)),
  ),
  words: z.string().trim().max(200).default(''),
  conversation: z.string().max(190).nullable().default(null),
  fromDay: z.iso.date().nullable().default(null),
  toDay: z.iso.date().nullable().default(null),
  matching: z.stringbool().default(false),
  order: z.enum(['newest', 'oldest', 'match']).default('newest'),
  afterWhen: z.iso.datetime().nullable().default(null),
  afterScore: z.coerce.number().int().min(0).max(100).default(0),
  afterId: z.coerce.number().int().positive().nullable().default(null),
})

/** What the Findings view asks for, from its address. @throws ZodError */
export function parseQuery(parameters: URLSearchParams): {
  view: 'page' | 'facets' | 'conversations' | 'timeline'
  filter: FindingFilter
  after: PageEnd | null
} {
  const { view, afterWhen, afterId, afterScore, ...filter } = schema.parse(Object.fromEntries(parameters))
  return { view, filter, after: afterId === null ? null : { when: afterWhen, id: afterId, score: afterScore } }
}
