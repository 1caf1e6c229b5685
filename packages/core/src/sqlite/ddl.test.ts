import { describe, expect, it } from 'vitest'
import { affinityOf, parseCreateTable } from './ddl.js'

describe('CREATE TABLE', () => {
  it('reads columns, types, constraints and defaults', () => {
    const shape = parseCreateTable(`CREATE TABLE "a b" (
      id INTEGER PRIMARY KEY AUTOINCREMENT, -- a comment, with (brackets
      [two words] VARCHAR(20) NOT NULL DEFAULT 'it''s', price DECIMAL(8, 2) DEFAULT -1.5,
      \`flag\` INT DEFAULT (1), data BLOB, "free", total AS (price * 2), kept INT AS (id) STORED,
      CHECK (price > 0), FOREIGN KEY (flag) REFERENCES other(id))`)
    expect(shape?.rowidColumn).toBe(0)
    expect(
      shape?.columns.map(({ name, affinity, notNull, defaultValue, virtual }) => [
        name,
        affinity,
        notNull,
        defaultValue,
        virtual,
      ]),
    ).toEqual([
      ['id', 'integer', false, null, false],
      ['two words', 'text', true, "it's", false],
      ['price', 'numeric', false, -1.5, false],
      ['flag', 'integer', false, 1, false],
      ['data', 'blob', false, null, false],
      ['free', 'blob', false, null, false],
      ['total', 'blob', false, null, true],
      ['kept', 'integer', false, null, false],
    ])
  })

  // "ROWIDs and the INTEGER PRIMARY KEY" in SQLite's CREATE TABLE documentation names these oddities.
  it.each([
    ['x INTEGER PRIMARY KEY', 0],
    ['x INTEGER PRIMARY KEY ASC', 0],
    ['x INTEGER PRIMARY KEY DESC', -1],
    ['x INT PRIMARY KEY', -1],
    ['x INTEGER, PRIMARY KEY(x)', 0],
    ['x INTEGER, PRIMARY KEY(x DESC)', 0],
    ['x INTEGER, y, PRIMARY KEY(x, y)', -1],
  ])('(%s): column that stands for the rowid: %i', (columns, expected) => {
    expect(parseCreateTable(`CREATE TABLE t (${columns})`)?.rowidColumn).toBe(expected)
  })

  it('knows tables without rowid by their key', () => {
    const shape = parseCreateTable('CREATE TABLE t (a TEXT, b INTEGER, c, PRIMARY KEY (b, a)) WITHOUT ROWID, STRICT')
    expect(shape).toMatchObject({ withoutRowid: true, primaryKey: [1, 0], rowidColumn: -1 })
  })

  it.each(['CREATE VIRTUAL TABLE t USING fts5(a)', 'CREATE VIEW v AS SELECT 1', 'CREATE INDEX i ON t (a)', 'damaged'])(
    'is not: %s',
    (sql) => {
      expect(parseCreateTable(sql)).toBeUndefined()
    },
  )

  // The examples of "Datatypes In SQLite", section 3.1.1.
  it.each([
    ['TINYINT', 'integer'],
    ['CHARACTER(20)', 'text'],
    ['NVARCHAR(100)', 'text'],
    ['CLOB', 'text'],
    ['BLOB', 'blob'],
    ['', 'blob'],
    ['DOUBLE PRECISION', 'real'],
    ['FLOAT', 'real'],
    ['DECIMAL(10,5)', 'numeric'],
    ['BOOLEAN', 'numeric'],
    ['TIMESTAMP', 'numeric'],
    ['FLOATING POINT', 'integer'],
  ])('%s has affinity %s', (type, affinity) => {
    expect(affinityOf(type)).toBe(affinity)
  })
})
