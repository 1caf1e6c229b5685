import { CATEGORY_IDS } from '@lumbrin/core/categories/types'
import { STANDINGS } from '@lumbrin/core/findings/standing'
import { z } from 'zod'
import { COMPARED_PARTS, type ComparedPart } from '../database/conditions.js'
import type { PageEnd } from '../database/pages.js'
import { type FindingFilter, ORDERS } from '../database/queries.js'

const VIEWS = ['page', 'facets', 'conversations', 'timeline', 'points', 'days', 'suggestions'] as const

const schema = z.object({
  view: z.enum(VIEWS).default('page'),
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
  /** Two sources and what a restore of the one onto the other does, as `12,15,wiped`. */
  compared: z
    .string()
    .regex(new RegExp(`^\\d+,\\d+,(${COMPARED_PARTS.join('|')})$`))
    .transform((text) => {
      const [first, second, part] = text.split(',')
      return { first: Number(first), second: Number(second), part: part as ComparedPart }
    })
    .nullable()
    .default(null),
  order: z.enum(ORDERS).default('newest'),
  afterWhen: z.iso.datetime().nullable().default(null),
  afterTitle: z.string().max(500).default(''),
  afterBytes: z.coerce.number().int().min(0).default(0),
  /** For days: the month, as 2026-05. */
  month: z
    .string()
    .regex(/^\d{4}-(0[1-9]|1[0-2])$/)
    .default('2000-01'),
  afterScore: z.coerce.number().int().min(0).max(100).default(0),
  afterId: z.coerce.number().int().positive().nullable().default(null),
})

/** What the Findings view asks for, from its address. @throws ZodError */
export function parseQuery(parameters: URLSearchParams): {
  view: (typeof VIEWS)[number]
  filter: FindingFilter
  month: string
  after: PageEnd | null
} {
  const { view, month, afterWhen, afterId, afterScore, afterTitle, afterBytes, ...filter } = schema.parse(
    Object.fromEntries(parameters),
  )
  const end = { when: afterWhen, score: afterScore, title: afterTitle, bytes: afterBytes }
  return { view, month, filter, after: afterId === null ? null : { ...end, id: afterId } }
}
