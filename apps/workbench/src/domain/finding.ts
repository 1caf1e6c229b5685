import { z } from 'zod'
import {
  category,
  condition,
  contentRef,
  contentState,
  count,
  countsByStanding,
  fields,
  lossWindow,
  origin,
  share,
  standing,
} from './core-values.js'
import { findingId, jobId, sightingId, sourceId } from './ids.js'
import { HAVING } from './search-text.js'
import { day } from './time.js'

/** A finding in a list. */
export const findingLine = z
  .strictObject({
    id: findingId,
    category,
    standing,
    /** The item's own time, ISO 8601 in UTC. */
    when: z.string().nullable(),
    title: z.string(),
    text: z.string().nullable(),
    conversation: z.string(),
    bytes: count,
    inTray: z.boolean(),
    fields,
    hasContent: z.boolean(),
    /** Whether the bytes of the file are there. */
    contentState,
    mime: z.string().nullable(),
    matchScore: z.number(),
    /** When it was put into the bin that it is in; null: it is in none, or that is not known. */
    binnedAt: z.string().nullable(),
  })
  .meta({ id: 'FindingLine' })

/** Where a page of results ends: the next one starts behind it. Which of the values count depends on the order. */
export interface PageEnd {
  id: number
  when: string | null
  score: number
  title: string
  bytes: number
}

/** How many findings there are, by category and standing. */
export const facets = countsByStanding

/** A conversation with its counts. `key` is empty for messages whose conversation was lost. */
export const conversationLine = z.strictObject({
  key: z.string(),
  title: z.string(),
  total: count,
  lost: count,
  lastAt: z.string().nullable(),
})

/** By what a sighting became part of its finding. Labels: `JOINED_BY_WORDS`. */
export const JOINED_BY = ['id', 'likeness', 'hand', 'alone'] as const

/** One sighting of a finding, for the inspector. */
export const sightingDetail = z.strictObject({
  id: sightingId,
  sourceId,
  condition,
  fields,
  content: contentRef.nullable(),
  contentState,
  origin,
  missing: z.array(z.string()),
  confidence: share,
  /** Equal for sightings that say the same. */
  version: z.string().nullable(),
  joinedBy: z.enum(JOINED_BY),
})

export const findingDetail = findingLine.extend({
  jobId,
  sightings: z.array(sightingDetail),
  bestSightingId: sightingId,
  /** When it went, as far as the sources tell; null: no state says that it is gone. */
  window: lossWindow.nullable(),
})

/** A finding with what it matches of the brief. */
export const explainedFinding = findingDetail.extend({
  match: z.strictObject({
    score: z.number(),
    reasons: z.array(z.enum(['category', 'words', 'people', 'lost', 'window'])),
  }),
})

/** How many findings of each standing fall into each stretch of time. */
export const timeline = z.strictObject({
  /** Days that each bin spans. */
  days: count,
  /** Each begins on the day `from`. */
  bins: z.array(z.strictObject({ from: day, counts: z.partialRecord(standing, count) })),
  /** Findings without a date. */
  undated: count,
})

const point = z.strictObject({
  id: findingId,
  latitude: z.number(),
  longitude: z.number(),
  standing,
  title: z.string(),
})

/** Findings that know where they were made. */
export const points = z.strictObject({
  points: z.array(point),
  /** There are more than are given. */
  more: z.boolean(),
})

/** A day of a month with what it holds. */
export const dayLine = z.strictObject({
  day,
  total: count,
  /** Of them: gone from the device. */
  lost: count,
  /** The first few, in the order of their times. */
  first: z.array(z.strictObject({ id: findingId, title: z.string(), standing })),
})

/** What a search may ask of a category, as far as it finds something there. */
export const suggestions = z.strictObject({
  from: z.array(z.string()),
  in: z.array(z.string()),
  has: z.array(z.enum(HAVING)),
  /** Of the standings, and `lost` for all of what is gone. */
  standing: z.array(z.union([standing, z.literal('lost')])),
  years: z.array(z.number().int()),
})

/** Why two pictures count as copies. Labels: `COPY_REASON_WORDS`. */
export const COPY_REASONS = ['same-bytes', 'looks-the-same', 'same-name'] as const
export type CopyReason = (typeof COPY_REASONS)[number]

/** A surviving copy of a picture. */
export const copy = z.strictObject({
  id: findingId,
  category,
  title: z.string(),
  standing,
  bytes: count,
  inTray: z.boolean(),
  reason: z.enum(COPY_REASONS),
  width: z.number().nullable(),
  height: z.number().nullable(),
})

/** What came of trying again to get the contents of a finding. */
export const triedAgain = z.strictObject({
  /** Contents that can be had now. */
  had: count,
  /** Reads that were queued: a content is to be fetched, or an item to be read anew. */
  reads: z.array(z.number().int()),
})

export type FindingLine = z.output<typeof findingLine>
export type Facets = z.output<typeof facets>
export type ConversationLine = z.output<typeof conversationLine>
export type SightingDetail = z.output<typeof sightingDetail>
export type FindingDetail = z.output<typeof findingDetail>
export type ExplainedFinding = z.output<typeof explainedFinding>
export type Timeline = z.output<typeof timeline>
export type TimeBin = Timeline['bins'][number]
export type Points = z.output<typeof points>
export type Point = Points['points'][number]
export type Day = z.output<typeof dayLine>
export type Suggestions = z.output<typeof suggestions>
export type Copy = z.output<typeof copy>
export type TriedAgain = z.output<typeof triedAgain>
