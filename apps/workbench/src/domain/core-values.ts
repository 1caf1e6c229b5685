import { CONTENT_STATES } from '@lumbrin/core/categories/content-states'
import { CATEGORY_IDS } from '@lumbrin/core/categories/registry'
import { CONDITIONS, PASSES } from '@lumbrin/core/categories/types'
import { STANDINGS } from '@lumbrin/core/findings/standing'
import { z } from 'zod'

/** Values of the core as they stand in answers. */
export const category = z.enum(CATEGORY_IDS).meta({ id: 'Category' })
export const condition = z.enum(CONDITIONS)
export const contentState = z.enum(CONTENT_STATES).meta({ id: 'ContentState' })
export const pass = z.enum(PASSES)
export const standing = z.enum(STANDINGS).meta({ id: 'Standing' })

const whole = z.number().int()
/** A number of things, or of bytes. */
export const count = whole.nonnegative()
/** From 0 to 1. */
export const share = z.number().min(0).max(1)

/** Anything that JSON can say. */
export const anyJson = z.json().meta({ id: 'Json' })

/** The fields of an item, documented by category in docs/categories.md. */
export const fields = z.record(z.string(), anyJson).meta({ id: 'Fields' })

/** Counts by category and standing. */
export const countsByStanding = z
  .partialRecord(category, z.partialRecord(standing, count))
  .meta({ id: 'CountsByStanding' })

/** A part of a file's bytes; the last one is excluded. */
const byteRange = z.strictObject({ start: count, end: count })

/** Which file of a source holds a content. */
export const contentRef = z
  .strictObject({
    name: z.string(),
    bytes: count,
    mime: z.string(),
    /** Null until it has been computed. */
    sha256: z.string().nullable(),
    domain: z.string(),
    path: z.string(),
    /** Absent: the whole file. */
    range: byteRange.exactOptional(),
  })
  .meta({ id: 'ContentRef' })

/** Where in a source an item lies. */
export const origin = z
  .strictObject({
    domain: z.string(),
    path: z.string(),
    table: z.string().nullable(),
    /** As text where a number cannot hold it. */
    rowid: z.union([z.number(), z.string()]).nullable(),
    place: z.enum(['live', 'freelist', 'freeblock', 'gap', 'wal', 'journal', 'dropped', 'other', 'carved', 'file']),
    page: whole.nullable(),
    offset: whole.nullable(),
    /** Of a rebuilt row: what its confidence follows from. */
    reasons: z.array(z.string()).readonly().exactOptional(),
  })
  .meta({ id: 'Origin' })

/** One item of one source. */
export const sighting = z
  .strictObject({
    category,
    condition,
    /** The item's own time, ISO 8601 in UTC. */
    when: z.string().nullable(),
    title: z.string(),
    text: z.string().nullable(),
    fields,
    content: contentRef.nullable(),
    origin,
    /** Columns that were lost. */
    missing: z.array(z.string()),
    confidence: share,
  })
  .meta({ id: 'Sighting' })

/** Between which moments something was lost, in milliseconds; null: open. */
export const lossWindow = z.strictObject({ from: z.number().nullable(), to: z.number().nullable() })
