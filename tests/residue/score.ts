import { readFileSync } from 'node:fs'
import { MemorySource } from '@lumbrin/core/io/source'
import { openDatabase } from '@lumbrin/core/sqlite/open'
import { rebuildRows } from '@lumbrin/core/sqlite/residue/rebuild'
import type { Row } from '@lumbrin/core/sqlite/values'
import { type Case, keyOf, type Version } from './generate.js'
import type { Value } from './recorded.js'

export interface Score {
  /** Versions that the database does not show and whose record stands whole in a file. */
  whole: number
  /** Of those: come back with every value right. */
  back: number
  /** Of those that came back: with their table's name. */
  named: number
  reported: number
  /** Rows that are told with a confidence of 0.8 and more, and those of them that are wrong. */
  sure: number
  sureWrong: number
  /** Rows with a value that no version of that row ever had. */
  wrong: number
  /** Rows that are no version at all. */
  invented: number
  liveReported: number
  doubled: number
  standingRight: number
  examples: string[]
}

/** Reads a case as the product does and holds it against what was written. */
export function scoreCase(made: Case): Score {
  const source = (path?: string) => path && new MemorySource(readFileSync(path))
  const main = source(made.files.main) as MemorySource
  const opened = openDatabase(
    { main, wal: source(made.files.wal) || undefined, journal: source(made.files.journal) || undefined },
    () => {},
  )
  const rows: Row[] = []
  for (const row of rebuildRows(opened)) if (row.table !== 'sqlite_master') rows.push(row)
  return new Judge(made, rows).score()
}

class Judge {
  readonly #lost: Version[]
  readonly #byContent = new Map<string, Version[]>()
  readonly #liveContent = new Set<string>()

  constructor(
    readonly made: Case,
    readonly rows: Row[],
  ) {
    for (const version of made.live.values()) this.#liveContent.add(contentOf(version))
    const distinct = new Map(made.versions.map((version) => [`${keyOf(version)}\0${contentOf(version)}`, version]))
    this.#lost = [...distinct.values()].filter((version) => {
      const now = made.live.get(keyOf(version))
      return !now || contentOf(now) !== contentOf(version)
    })
    for (const version of this.#lost) {
      const key = contentOf(version)
      const known = this.#byContent.get(key)
      if (known) known.push(version)
      else this.#byContent.set(key, [version])
    }
  }

  score(): Score {
    const score: Score = {
      whole: 0,
      back: 0,
      named: 0,
      reported: this.rows.length,
      sure: this.rows.filter(isSure).length,
      sureWrong: 0,
      wrong: 0,
      invented: 0,
      liveReported: 0,
      doubled: 0,
      standingRight: 0,
      examples: [],
    }
    const found = new Map<Version, Row>()
    for (const row of this.rows) this.#place(row, score, found)
    const files = [this.made.files.main, this.made.files.wal, this.made.files.journal].flatMap((path) =>
      path ? [readFileSync(path)] : [],
    )
    for (const version of this.#lost) {
      const record = recordTail(version, this.made.encoding)
      if (record.length < 8 || !files.some((bytes) => bytes.includes(record))) continue
      // A copy of a live row looks the same, and is not to be told.
      if (this.#liveContent.has(contentOf(version))) continue
      score.whole++
      const row = found.get(version)
      if (!row) {
        score.examples.push(
          `missed: ${version.table} ${version.rowid} at ${files.map((bytes) => bytes.indexOf(record)).join('/')} ${JSON.stringify(version.values, plain).slice(0, 150)}`,
        )
        continue
      }
      score.back++
      if (row.table === version.table || this.made.dropped.has(version.table)) score.named++
      const live = this.made.live.has(keyOf(version))
      if (row.standing === (live ? 'superseded' : 'deleted')) score.standingRight++
    }
    return score
  }

  #place(row: Row, score: Score, found: Map<Version, Row>): void {
    const matches = this.#lost.filter((version) => this.#agrees(row, version))
    const whole = matches.find((version) => !found.has(version) && this.#isWhole(row, version))
    if (whole) {
      found.set(whole, row)
      return
    }
    const say = (kind: string) => score.examples.push(`${kind}: ${JSON.stringify(row, plain).slice(0, 420)}`)
    if (matches.some((version) => this.#isWhole(row, version))) {
      score.doubled++
      say('doubled')
    } else if (matches.length > 0) return
    else if ([...this.made.live.values()].some((version) => this.#agrees(row, version))) {
      score.liveReported++
      say('live')
    } else if (this.made.versions.some((version) => this.#shares(row, version))) {
      score.wrong++
      score.sureWrong += isSure(row) ? 1 : 0
      say('wrong')
    } else {
      score.invented++
      score.sureWrong += isSure(row) ? 1 : 0
      say('invented')
    }
  }

  /** Every value of the row is the version's. */
  #agrees(row: Row, version: Version): boolean {
    if (row.table !== null && row.table !== version.table) return false
    if (row.rowid !== null && version.rowid !== null && row.rowid !== version.rowid) return false
    const entries = Object.entries(row.values)
    return (
      entries.length > 0 &&
      entries.every(([name, value]) => same(value, row.table === null ? storedAt(version, name) : version.values[name]))
    )
  }

  #isWhole(row: Row, version: Version): boolean {
    const named = row.table !== null
    return version.stored.every(({ name, value }, position) => {
      if (version.values[name] === version.rowid && value === null && version.rowid !== null) return true
      return same(named ? row.values[name] : row.values[`c${position}`], value)
    })
  }

  /** At least one telling value is the version's, so that the row was meant to be it. */
  #shares(row: Row, version: Version): boolean {
    if (row.table !== null && row.table !== version.table) return false
    return Object.entries(row.values).some(
      ([name, value]) =>
        (typeof value === 'string' ? value.length > 12 : typeof value === 'number' && Math.abs(value) > 1e6) &&
        same(value, row.table === null ? storedAt(version, name) : version.values[name]),
    )
  }
}

const isSure = ({ confidence }: Row) => confidence >= 0.8

const storedAt = (version: Version, name: string) => version.stored[Number(name.slice(1))]?.value

const plain = (_: string, value: unknown) =>
  typeof value === 'bigint' ? `${value}n` : value instanceof Uint8Array ? `blob ${value.length}` : value

function same(a: Value | undefined, b: Value | undefined): boolean {
  if (a === undefined || b === undefined) return (a ?? null) === (b ?? null)
  if (a instanceof Uint8Array || b instanceof Uint8Array)
    return a instanceof Uint8Array && b instanceof Uint8Array && Buffer.compare(a, b) === 0
  return (
    a === b || (a !== null && b !== null && typeof a !== 'string' && typeof b !== 'string' && Number(a) === Number(b))
  )
}

/** A column added later and never filled is no difference: the older, shorter record says the same. */
function contentOf({ table, stored }: Version): string {
  const values = stored.map(({ value }) =>
    value instanceof Uint8Array
      ? Buffer.from(value).toString('base64')
      : typeof value === 'bigint'
        ? `${value}`
        : value,
  )
  while (values.length > 0 && values.at(-1) === null) values.pop()
  return `${table}\0${JSON.stringify(values)}`
}

/** The bytes of a version's record behind its first two types: what a freed cell keeps of it at least. */
function recordTail({ stored }: Version, encoding: Case['encoding']): Buffer {
  const parts = stored.map(({ value, real }) => encode(value, real, encoding))
  return Buffer.concat([...parts.slice(2).map((part) => part.type), ...parts.map((part) => part.body)])
}

function encode(value: Value, real: boolean, encoding: Case['encoding']): { type: Buffer; body: Buffer } {
  if (value === null) return { type: varint(0), body: Buffer.alloc(0) }
  if (typeof value === 'string') {
    const body =
      encoding === 'utf8'
        ? Buffer.from(value)
        : encoding === 'utf16le'
          ? Buffer.from(value, 'utf16le')
          : Buffer.from(value, 'utf16le').swap16()
    return { type: varint(13 + 2 * body.length), body }
  }
  if (value instanceof Uint8Array) return { type: varint(12 + 2 * value.length), body: Buffer.from(value) }
  const number = Number(value)
  if (!Number.isInteger(number)) {
    const body = Buffer.alloc(8)
    body.writeDoubleBE(number)
    return { type: varint(7), body }
  }
  if ((number === 0 || number === 1) && !real) return { type: varint(8 + number), body: Buffer.alloc(0) }
  return integer(BigInt(value))
}

function integer(value: bigint): { type: Buffer; body: Buffer } {
  for (const [type, size] of [
    [1, 1],
    [2, 2],
    [3, 3],
    [4, 4],
    [5, 6],
    [6, 8],
  ] as const) {
    if (BigInt.asIntN(size * 8, value) !== value) continue
    const whole = Buffer.alloc(8)
    whole.writeBigInt64BE(value)
    return { type: varint(type), body: whole.subarray(8 - size) }
  }
  throw new Error('no integer of SQLite')
}

function varint(value: number): Buffer {
  const bytes = [value & 0x7f]
  for (let rest = value >>> 7; rest > 0; rest >>>= 7) bytes.unshift((rest & 0x7f) | 0x80)
  return Buffer.from(bytes)
}
