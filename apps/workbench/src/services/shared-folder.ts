import { categoryList } from '@lumbrin/core/categories/table'
import { csvLine, isPicture, timeCells, timeHeads } from '@lumbrin/core/export/csv'
import { Places } from '@lumbrin/core/export/names'
import type { Db } from '../database/connection.js'
import {
  categoriesWithin,
  filesWithin,
  itemsWithin,
  type Shelf,
  shelvesWithin,
  type Within,
} from '../database/shared.js'
import { AppError } from '../domain/errors.js'
import type { FindingId, JobId } from '../domain/ids.js'
import { cached } from './cached.js'
import { type OpenContent, openFindingContent } from './content.js'
import { requireJob } from './jobs.js'
import { namesAcross } from './names-across.js'

/** A file or a folder of the network folder. */
export interface Node {
  name: string
  kind: 'folder' | 'file'
  /** Undefined: not known before it is read. */
  bytes?: number
  modifiedAt?: Date | null
  mime?: string
  /** The finding whose content it is; undefined for folders and tables. */
  finding?: FindingId
}

const PARTS = new Map<string, Within['part']>([
  ['Tray', 'tray'],
  ['Findings', 'findings'],
])
const UNDATED = 'undated'
const TABLE = /\.csv$/

const folder = (name: string): Node => ({ name, kind: 'folder' })

/**
 * What lies at a path below a job: part, category, month, file. Undefined: nothing. A category's folder holds a table of
 * its items too, for most kinds of item have no file of their own.
 */
export async function nodeAt(db: Db, jobId: JobId, path: readonly string[]): Promise<Node | undefined> {
  const name = path.at(-1)
  if (name === undefined) return folder('')
  const siblings = await listed(db, jobId, path.slice(0, -1))
  const node = siblings?.find((one) => one.name === name)
  return node && measured(db, jobId, path, node)
}

/** What a folder holds; undefined: there is no such folder. */
export async function nodesIn(db: Db, jobId: JobId, path: readonly string[]): Promise<Node[] | undefined> {
  const nodes = await listed(db, jobId, path)
  return nodes && Promise.all(nodes.map((node) => measured(db, jobId, [...path, node.name], node)))
}

/** A node with its size. That of a table is known once it was made, which whoever only passes through need not wait for. */
async function measured(db: Db, jobId: JobId, [part = '', label = '']: readonly string[], node: Node): Promise<Node> {
  if (node.kind === 'folder' || node.bytes !== undefined) return node
  const within = await withinOf(db, jobId, part, label)
  return within ? { ...node, bytes: await tableBytes(db, within) } : node
}

async function listed(db: Db, jobId: JobId, path: readonly string[]): Promise<Node[] | undefined> {
  const [part, label, shelf, ...rest] = path
  if (part === undefined) return [...PARTS.keys()].map(folder)
  const kind = PARTS.get(part)
  if (!kind || rest.length > 0) return undefined
  if (label === undefined) {
    const present = await categoriesWithin(db, jobId, kind)
    return categoryList.filter(({ id }) => present.includes(id)).map((category) => folder(category.label))
  }
  const within = await withinOf(db, jobId, part, label)
  if (!within) return undefined
  if (shelf === undefined) {
    const shelves = (await shelvesWithin(db, within)).map((month) => folder(month ?? UNDATED))
    return [...shelves, { name: `${label}.csv`, kind: 'file', mime: 'text/csv' }]
  }
  const month = shelf === UNDATED ? null : shelf
  return /^\d{4}-\d\d$/.test(month ?? '2000-01') ? filesOf(db, within, month) : undefined
}

async function filesOf(db: Db, within: Within, month: Shelf): Promise<Node[]> {
  const places = new Places()
  return (await filesWithin(db, within, month)).map(({ id, content, when }) => ({
    name: places.take('.', content.name).slice(2),
    kind: 'file' as const,
    bytes: content.bytes,
    modifiedAt: when,
    mime: content.mime,
    finding: id,
  }))
}

async function withinOf(db: Db, jobId: JobId, part: string, label: string): Promise<Within | undefined> {
  const category = categoryList.find((one) => one.label === label)
  const kind = PARTS.get(part)
  if (!category || !kind) return undefined
  const { timeZone } = await requireJob(db, jobId)
  return { jobId, part: kind, category: category.id, zone: timeZone }
}

/** Opens the content of a file's finding. @throws AppError where it is not in its source */
export function openNode(db: Db, { finding }: Node): Promise<OpenContent> {
  if (finding === undefined) throw new AppError('not-found', 'There is no such file.')
  return openFindingContent(db, finding)
}

/** How long a table is. It is made for that, since clients compare what they have with what is there. */
const tableBytes = (db: Db, within: Within): Promise<number> =>
  cached(`table ${within.jobId} ${within.part} ${within.category}`, async () => {
    let bytes = 0
    for await (const line of tableOf(db, within)) bytes += Buffer.byteLength(line)
    return bytes
  })

/** The table of a category as text, a piece at a time; undefined: the path names none. */
export async function tableAt(
  db: Db,
  jobId: JobId,
  path: readonly string[],
): Promise<AsyncGenerator<string> | undefined> {
  const [part = '', label = '', name = ''] = path
  const within = path.length === 3 && TABLE.test(name) ? await withinOf(db, jobId, part, label) : undefined
  return within && tableOf(db, within)
}

async function* tableOf(db: Db, within: Within): AsyncGenerator<string> {
  let columns: string[] | undefined
  const names = await namesAcross(db, within.jobId)
  for await (const { standing, when, text, ...item } of itemsWithin(db, within)) {
    const { title, fields } = names.given({ ...item, category: within.category })
    if (!columns) {
      columns = Object.keys(fields)
      yield csvLine([...timeHeads(within.zone), 'standing', 'title', 'text', ...columns])
    }
    const cells = columns.map((column) => {
      const value = fields[column] ?? null
      if (isPicture(value)) return 'yes'
      return value === null || typeof value === 'string' || typeof value === 'number' ? value : JSON.stringify(value)
    })
    const times = timeCells({ when: when?.toISOString() ?? null, fields }, within.zone)
    yield csvLine([...times, standing, title, text, ...cells])
  }
}
