import { describe, expect, it } from 'vitest'
import { tableOf } from '../../database.js'
import type { TextEncoding } from '../../header.js'
import { bodySize, type Candidate, type Format, formatFor } from './candidate.js'
import { firstImpossible } from './impossible.js'
import { type Profile, profileOf } from './profile.js'

function profileFor(columns: string): Profile {
  const sql = `CREATE TABLE t (${columns})`
  const table = tableOf({ type: 'table', name: 't', tbl_name: 't', rootpage: 2, sql })
  if (!table) throw new Error('the statement defines no table')
  return profileOf(table, false)
}

function formatOf(profile: Profile, encoding: TextEncoding): Format {
  const header = { pageSize: 512, usableSize: 512, declaredPages: 0, firstTrunk: 0, freePages: 0, autoVacuum: false }
  return formatFor({ ...header, bareConstants: true, encoding }, 10, [profile])
}

/** Where the first impossible value of a record begins, counted from its body. */
function found(columns: string, types: number[], hex: string, encoding: TextEncoding = 'utf8', profile?: Profile) {
  const bytes = Buffer.from(hex.replaceAll(' ', ''), 'hex')
  const best = profile ?? profileFor(columns)
  const candidate: Candidate = {
    start: 0,
    body: 0,
    end: bytes.length,
    types,
    payloadSize: bodySize(types),
    local: bytes.length,
    overflow: 0,
    ofIndex: false,
    rowid: null,
    lostSize: 0,
    cut: false,
    fits: [{ profile: best, bits: 0 }],
    startOverwritten: false,
    typesLost: 0,
    chance: 1,
    bits: 0,
    intact: false,
  }
  return firstImpossible(bytes, candidate, formatOf(best, encoding))
}

// Serial types by "Database File Format", section 2.1: 1 to 6 whole numbers, 7 real ones, 13 + 2n a text of n bytes.
describe('a value that was not written as it stands', () => {
  it('is a whole number in more bytes than it needs', () => {
    expect(found('a INT, b INT', [2, 4], '0102 01000000')).toBeUndefined()
    expect(found('a INT, b INT', [2, 4], '0102 00000001')).toBe(2)
    expect(found('a INT, b INT', [2, 2], '0005 0102')).toBe(0)
    expect(found('a INT, b INT', [6, 1], 'ffffffffffff8000 05')).toBe(0)
  })

  it('is a whole number as a real one, in a column for numbers alone', () => {
    // 0.0, 2.0 and 0.5 as IEEE 754 has them.
    expect(found('a INT, r REAL', [1, 7], '05 0000000000000000')).toBe(1)
    expect(found('a INT, r NUMERIC', [1, 7], '05 4000000000000000')).toBe(1)
    expect(found('a INT, r REAL', [1, 7], '05 3fe0000000000000')).toBeUndefined()
    expect(found('a INT, r', [1, 7], '05 4000000000000000')).toBeUndefined()
    // 2^60 takes eight bytes either way, and stays a real one.
    expect(found('a INT, r REAL', [1, 7], '05 43b0000000000000')).toBeUndefined()
  })

  it('is a text with control characters, unless live ones have them', () => {
    expect(found('a INT, w TEXT', [1, 19], '05 616200')).toBe(1)
    expect(found('a INT, w TEXT', [1, 19], '05 610a62')).toBeUndefined()
    const taught = profileFor('a INT, w TEXT')
    taught.ranges[1]?.letters.set([9], 0x1f)
    expect(found('', [1, 19], '05 611f62', 'utf8', taught)).toBeUndefined()
    expect(found('', [1, 19], '05 611e62', 'utf8', taught)).toBe(1)
  })

  it('is so in UTF-16 by the whole letter: the other half of one is often zero', () => {
    expect(found('a INT, w TEXT', [1, 21], '05 6100 6200', 'utf16le')).toBeUndefined()
    expect(found('a INT, w TEXT', [1, 21], '05 0061 0062', 'utf16be')).toBeUndefined()
    expect(found('a INT, w TEXT', [1, 21], '05 6100 0000', 'utf16le')).toBe(1)
    const taught = profileFor('a INT, w TEXT')
    // As texts of Latin letters teach it: the high halves are zero, the low ones never.
    taught.ranges[1]?.letters.set([500], 256)
    expect(found('', [1, 21], '05 6100 0000', 'utf16le', taught)).toBe(1)
  })

  it('is not looked for behind the end of what is there', () => {
    expect(found('a INT, b INT', [2, 4], '0102 0000')).toBeUndefined()
  })
})
