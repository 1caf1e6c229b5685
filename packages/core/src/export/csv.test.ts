import { execFileSync } from 'node:child_process'
import { parse } from 'csv-parse/sync'
import { describe, expect, it } from 'vitest'
import { csvLine } from './csv.js'

/** What Python's csv module reads: records of cells. */
function byPython(text: string): string[][] {
  const program =
    'import csv, io, json, sys; print(json.dumps(list(csv.reader(io.StringIO(sys.stdin.read(), newline=""), strict=True))))'
  return JSON.parse(
    execFileSync('python3', ['-c', program], { input: text, encoding: 'utf8', env: { PYTHONIOENCODING: 'utf8' } }),
  )
}

const CELLS = [
  'one line',
  'three\nlines\nof a note',
  'old\rMac',
  'DOS\r\nline',
  '\n',
  'ends with a break\n',
  'comma, and "quotes"',
  '"',
  '""\n""',
  'a;b\tc',
  ' blanks ',
  '',
  'emoji 😀\u2028separator',
]

describe('a line of CSV', () => {
  it.each(CELLS.map((cell) => [JSON.stringify(cell), cell]))('holds %s in one cell of one record', (_, cell) => {
    const text = csvLine(['first', cell, 'last']) + csvLine(['next', 'x', 'y'])
    const records = [
      ['first', cell, 'last'],
      ['next', 'x', 'y'],
    ]
    expect(byPython(text)).toEqual(records)
    expect(parse(text, { record_delimiter: '\r\n' })).toEqual(records)
  })

  // OWASP, "CSV Injection": a spreadsheet computes what begins so.
  it.each(['=1+1', '+1', '-1', '@SUM(A1)', '\t=1', '\r=1', '\n=1', '\n\n=1', '=1\n=2'])(
    'lets no spreadsheet compute %j',
    (cell) => {
      const [[, read = ''] = []] = byPython(csvLine(['a', cell]))
      expect(read.replace(/^'/, '')).toBe(cell)
      if (/^[=+\-@\t\r]/.test(cell)) expect(read.startsWith("'")).toBe(true)
    },
  )

  it('keeps numbers as they are, negative ones too', () => {
    expect(csvLine([-12.5, 0, null])).toBe('-12.5,0,\r\n')
  })
})
