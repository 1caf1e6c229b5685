import type { SqlValue } from './values.js'

/** How SQLite converts values on the way into a column ("Datatypes In SQLite", section 3.1). */
export type Affinity = 'integer' | 'text' | 'blob' | 'real' | 'numeric'

export interface Column {
  name: string
  declaredType: string
  affinity: Affinity
  notNull: boolean
  /** No two rows share a value (of a single-column UNIQUE constraint). */
  unique: boolean
  /** What a record that was written before the column was added stands for. */
  defaultValue: SqlValue
  /** Computed on reading, so not stored in the record. */
  virtual: boolean
}

/** What a CREATE TABLE statement says, as far as reading records needs it. */
export interface TableShape {
  columns: Column[]
  withoutRowid: boolean
  /** Index of the column that stands for the rowid and is stored as NULL; -1 for none. */
  rowidColumn: number
  /** Indices of the primary key's columns, in key order. */
  primaryKey: number[]
}

/** Parses CREATE TABLE. Undefined: not one (a virtual table, a view, damaged text). */
export function parseCreateTable(sql: string): TableShape | undefined {
  const tokens = tokenize(sql)
  const open = tokens.findIndex((token) => token.text === '(')
  const head = tokens.slice(0, open).map((token) => token.word)
  if (open < 0 || head[0] !== 'CREATE' || !head.includes('TABLE') || head.includes('VIRTUAL')) return undefined
  const { parts, end } = splitDefinitions(tokens, open)
  const shape: TableShape = { columns: [], withoutRowid: false, rowidColumn: -1, primaryKey: [] }
  const options = tokens.slice(end).map((token) => token.word)
  shape.withoutRowid = options.includes('WITHOUT')
  for (const part of parts) if (!addTableConstraint(shape, part)) addColumn(shape, part)
  if (shape.withoutRowid) shape.rowidColumn = -1
  return shape.columns.length > 0 ? shape : undefined
}

interface Token {
  /** The text with its quotes removed. */
  text: string
  /** Upper-case keyword, or '' where the token was quoted and cannot be one. */
  word: string
  quoted: boolean
}

const TOKEN =
  /\s+|--[^\n]*|\/\*[\s\S]*?\*\/|'(?:[^']|'')*'|"(?:[^"]|"")*"|`(?:[^`]|``)*`|\[[^\]]*\]|[\p{L}\p{N}_$.]+|[^\s]/gu

function tokenize(sql: string): Token[] {
  const tokens: Token[] = []
  for (const [raw] of sql.matchAll(TOKEN)) {
    if (/^(\s|--|\/\*)/.test(raw)) continue
    const quote = raw[0] as string
    const quoted = raw.length > 1 && '\'"`['.includes(quote)
    const inner = raw.slice(1, -1)
    const text = !quoted ? raw : quote === '[' ? inner : inner.replaceAll(quote + quote, quote)
    tokens.push({ text, word: quoted ? '' : raw.toUpperCase(), quoted: quoted && quote === "'" })
  }
  return tokens
}

function splitDefinitions(tokens: Token[], open: number): { parts: Token[][]; end: number } {
  const parts: Token[][] = [[]]
  let depth = 0
  for (let i = open; i < tokens.length; i++) {
    const token = tokens[i] as Token
    if (token.word === '(') depth++
    if (token.word === ')' && --depth === 0) return { parts: parts.filter((part) => part.length > 0), end: i + 1 }
    if (token.word === ',' && depth === 1) parts.push([])
    else if (!(token.word === '(' && depth === 1)) parts.at(-1)?.push(token)
  }
  return { parts: parts.filter((part) => part.length > 0), end: tokens.length }
}

const TABLE_CONSTRAINTS = new Set(['CONSTRAINT', 'PRIMARY', 'UNIQUE', 'CHECK', 'FOREIGN'])

function addTableConstraint(shape: TableShape, part: Token[]): boolean {
  if (!TABLE_CONSTRAINTS.has(part[0]?.word ?? '')) return false
  const at = part.findIndex((token, i) => token.word === 'PRIMARY' && part[i + 1]?.word === 'KEY')
  if (at < 0) return true
  const names = part.slice(at + 3).filter((_, i, all) => i === 0 || all[i - 1]?.word === ',')
  shape.primaryKey = names.map((name) => columnIndex(shape, name.text)).filter((index) => index >= 0)
  const [only] = shape.primaryKey
  // "PRIMARY KEY(x DESC)" makes x the rowid, "x INTEGER PRIMARY KEY DESC" does not (documented oddity).
  if (names.length === 1 && only !== undefined && isInteger(shape.columns[only])) shape.rowidColumn = only
  return true
}

const columnIndex = (shape: TableShape, name: string) =>
  shape.columns.findIndex((column) => column.name.toLowerCase() === name.toLowerCase())

const isInteger = (column: Column | undefined) => column?.declaredType.toUpperCase() === 'INTEGER'

const COLUMN_CONSTRAINTS = new Set([
  'CONSTRAINT',
  'PRIMARY',
  'NOT',
  'NULL',
  'UNIQUE',
  'CHECK',
  'DEFAULT',
  'COLLATE',
  'REFERENCES',
  'GENERATED',
  'AS',
  'ON',
])

function addColumn(shape: TableShape, part: Token[]): void {
  const name = part[0]?.text ?? ''
  let at = 1
  while (at < part.length && !COLUMN_CONSTRAINTS.has(part[at]?.word ?? '')) at++
  const declaredType = part
    .slice(1, at)
    .map((token) => token.text)
    .join(' ')
  const rules = part.slice(at)
  const has = (first: string, second: string) =>
    rules.some((token, i) => token.word === first && rules[i + 1]?.word === second)
  const key = rules.findIndex((token, i) => token.word === 'PRIMARY' && rules[i + 1]?.word === 'KEY')
  const computed = has('GENERATED', 'ALWAYS') || rules[0]?.word === 'AS'
  const column: Column = {
    name,
    declaredType,
    affinity: affinityOf(declaredType),
    notNull: has('NOT', 'NULL'),
    unique: rules.some((token) => token.word === 'UNIQUE'),
    defaultValue: defaultOf(rules),
    virtual: computed && !rules.some((token) => token.word === 'STORED'),
  }
  shape.columns.push(column)
  if (key < 0) return
  shape.primaryKey = [shape.columns.length - 1]
  if (isInteger(column) && rules[key + 2]?.word !== 'DESC') shape.rowidColumn = shape.columns.length - 1
}

/** The affinity of a declared type, by the documented order of tests. */
export function affinityOf(declaredType: string): Affinity {
  const type = declaredType.toUpperCase()
  if (type.includes('INT')) return 'integer'
  if (/CHAR|CLOB|TEXT/.test(type)) return 'text'
  if (type === '' || type.includes('BLOB')) return 'blob'
  return /REAL|FLOA|DOUB/.test(type) ? 'real' : 'numeric'
}

function defaultOf(rules: Token[]): SqlValue {
  const at = rules.findIndex((token) => token.word === 'DEFAULT')
  if (at < 0) return null
  const literal = rules.slice(at + 1).filter((token) => token.word !== '(')
  const sign = literal[0]?.text === '-' ? -1 : 1
  const token = literal[0]?.text === '-' || literal[0]?.text === '+' ? literal[1] : literal[0]
  if (!token || token.word === 'NULL') return null
  if (token.quoted) return token.text
  if (token.word === 'TRUE' || token.word === 'FALSE') return token.word === 'TRUE' ? 1 : 0
  const number = Number(token.text)
  return Number.isNaN(number) ? null : sign * number
}
