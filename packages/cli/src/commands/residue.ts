import { FormatError, messageOf, SourceError } from '@lumbrin/core/io/errors'
import { FileSource } from '@lumbrin/core/io/file'
import { openDatabase } from '@lumbrin/core/sqlite/open'
import { rebuildRows } from '@lumbrin/core/sqlite/residue/rebuild'
import type { Row, SqlValue } from '@lumbrin/core/sqlite/values'
import { parseOptions, requireSource } from '../options.js'
import { warnOnStderr, withOutput } from '../output.js'

/** `lumbrin residue`: every rebuilt row of a SQLite file, a line each. */
export async function residueCommand(words: string[]): Promise<void> {
  const options = parseOptions(words, ['wal', 'journal', 'out'])
  const path = requireSource(options)
  const main = await openFile(path)
  if (!main) throw new SourceError('not-found', `There is no file "${path}".`)
  const wal = await openFile(options.wal ?? `${path}-wal`)
  const journal = await openFile(options.journal ?? `${path}-journal`)
  const report = warnOnStderr()
  try {
    const opened = openDatabase({ main, wal, journal }, report)
    await withOutput(options.out, async (lines) => {
      for (const row of rebuildRows(opened)) await lines.writeText(lineOf(row))
    })
  } catch (thrown) {
    if (thrown instanceof FormatError)
      throw new SourceError('not-readable', `"${path}" cannot be read: ${messageOf(thrown)}.`, { cause: thrown })
    throw thrown
  } finally {
    await Promise.all([main.close(), wal?.close(), journal?.close()])
  }
}

async function openFile(path: string): Promise<FileSource | undefined> {
  try {
    return await FileSource.open(path)
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return undefined
    throw new SourceError('not-readable', `"${path}" cannot be opened: ${messageOf(thrown)}.`, { cause: thrown })
  }
}

/** A row as JSON. JSON.stringify knows no integers beyond 2^53, whose digits must stay exact. */
function lineOf(row: Row): string {
  const { table, rowid, missing, place, standing, confidence, reasons, candidates, changed, otherPlaces } = row
  const more = Object.entries({ reasons, candidates, changed, otherPlaces }).flatMap(([name, list]) =>
    list && list.length > 0 ? [`,"${name}":${JSON.stringify(list)}`] : [],
  )
  const where = `"place":"${place.kind}","page":${place.page},"offset":${place.offset}`
  return `{"table":${JSON.stringify(table)},"rowid":${rowid === null ? 'null' : rowid},"values":${valuesText(row)},"missing":${JSON.stringify(missing)},${where},"standing":"${standing}","confidence":${confidence}${more.join('')}}\n`
}

function valuesText({ values }: Row): string {
  for (const name in values) if (!isPlain(values[name] as SqlValue)) return exactText(values)
  return JSON.stringify(values)
}

/** True for what JSON.stringify writes without loss. */
const isPlain = (value: SqlValue): boolean =>
  typeof value === 'number'
    ? Number.isFinite(value) && !Object.is(value, -0)
    : typeof value === 'string' || value === null

function exactText(values: Row['values']): string {
  let text = ''
  for (const name in values)
    text += `${text === '' ? '' : ','}${JSON.stringify(name)}:${valueText(values[name] as SqlValue)}`
  return `{${text}}`
}

function valueText(value: SqlValue): string {
  if (typeof value === 'string') return JSON.stringify(value)
  if (value instanceof Uint8Array)
    return `{"base64":"${Buffer.from(value.buffer, value.byteOffset, value.byteLength).toString('base64')}"}`
  if (typeof value === 'number' && !Number.isFinite(value)) return value > 0 ? '9e999' : '-9e999'
  return Object.is(value, -0) ? '-0.0' : String(value)
}
