import { z } from 'zod'
import { anyJson, category, count } from './core-values.js'

/** Files and bytes of a part of a source. */
const partSize = z.strictObject({ files: count, bytes: count })

/** What a source holds, before any read. */
export const sourceOverview = z.strictObject({
  domains: z.array(partSize.extend({ domain: z.string() })),
  categories: z.array(partSize.extend({ category })),
})

/** One line of the file browser. */
const fileLine = z.strictObject({
  domain: z.string(),
  path: z.string(),
  name: z.string(),
  kind: z.enum(['folder', 'file', 'link']),
  bytes: count,
  /** Of a folder: files anywhere below it. */
  files: count,
  modifiedAt: z.string().nullable(),
})

export const fileListing = z.strictObject({
  lines: z.array(fileLine),
  /** There are more than are listed. */
  more: z.boolean(),
})

const tablePeek = z.strictObject({
  name: z.string(),
  columns: z.array(z.string()),
  rows: z.array(z.array(z.string())),
  more: z.boolean(),
})

/** A file as the browser shows it. */
export const filePeek = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('text'), text: z.string(), cut: z.boolean() }),
  /** Dates and data stand as texts. */
  z.strictObject({ kind: z.literal('plist'), value: anyJson }),
  z.strictObject({ kind: z.literal('database'), tables: z.array(z.string()), table: tablePeek.nullable() }),
  z.strictObject({ kind: z.literal('picture') }),
  z.strictObject({ kind: z.literal('bytes'), base64: z.string(), size: count }),
])

const FLAWS = ['missing', 'cut', 'too-long', 'locked', 'wrong-id', 'size-unknown'] as const

export const integrityReport = z
  .strictObject({
    checkedAt: z.string(),
    folders: count,
    links: count,
    files: count,
    /** Bytes of content that the entries declare. */
    bytes: count,
    /** Files with nothing wrong. */
    whole: count,
    flaws: z.record(z.enum(FLAWS), count),
    /** The first flawed entries, as far as anyone reads them. */
    flawed: z.array(z.strictObject({ domain: z.string(), path: z.string(), flaw: z.enum(FLAWS), why: z.string() })),
    /** Content that no entry names. */
    strays: count,
  })
  .meta({ id: 'IntegrityReport' })

export const integrityStep = z.union([
  z.strictObject({ checked: count, of: count }),
  z.strictObject({ report: integrityReport }),
])

/** Which file of a source holds a page. */
const PAGE_FILES = ['database', 'wal', 'journal'] as const
export const pageFile = z.enum(PAGE_FILES)

/** All pages of a database by use. */
export const pageMap = z.strictObject({
  pageSize: count,
  pageCount: count,
  /** A digit of the core's `USE` for each page, from page 1. */
  uses: z.string(),
  counts: z.record(z.string(), count),
})

const rowView = z.strictObject({
  kind: z.enum(['live', 'rebuilt']),
  start: count,
  end: count,
  /** Where its record's values begin: what lies before is the cell's header. */
  body: count,
  table: z.string().nullable(),
  rowid: z.string().nullable(),
  place: z.enum(['live', 'freelist', 'freeblock', 'gap', 'wal', 'journal', 'dropped', 'other']),
  confidence: z.number(),
  reasons: z.array(z.string()).readonly(),
  columns: z.array(z.strictObject({ name: z.string(), start: count, end: count, value: z.string().nullable() })),
})

/** A page for the browser: its bytes as base64, its rows' values as short texts. */
export const pageView = z.strictObject({
  page: count,
  use: count,
  owner: z.string().nullable(),
  file: pageFile,
  /** Of the image, in the file that holds it. */
  offset: count,
  bytes: z.string(),
  spans: z.array(
    z.strictObject({
      start: count,
      end: count,
      kind: z.enum(['header', 'pointers', 'gap', 'freeblock', 'cell', 'rebuilt', 'other']),
    }),
  ),
  rows: z.array(rowView),
})

export type PartSize = z.output<typeof partSize>
export type SourceOverview = z.output<typeof sourceOverview>
export type FileLine = z.output<typeof fileLine>
export type FileListing = z.output<typeof fileListing>
export type TablePeek = z.output<typeof tablePeek>
export type FilePeek = z.output<typeof filePeek>
export type PageMap = z.output<typeof pageMap>
export type PageView = z.output<typeof pageView>
export type RowView = z.output<typeof rowView>
