import { describe, expect, it } from 'vitest'
import { tableOf } from '../../database.js'
import { likelyTypes } from './lost-types.js'
import { profileOf } from './profile.js'

const profileFor = (sql: string) => {
  const table = tableOf({ type: 'table', name: 't', tbl_name: 't', rootpage: 2, sql })
  if (!table) throw new Error('the statement defines no table')
  return profileOf(table, false)
}
const KEYED = profileFor('CREATE TABLE t (k TEXT, n INTEGER, v TEXT, PRIMARY KEY (k, n)) WITHOUT ROWID')
const typesOf = (bytes: Buffer, count: number, profile = KEYED) =>
  likelyTypes(bytes, 0, bytes.length, count, profile, 'utf8')?.types

/** As 200 live rows teach it: a word and up to three digits, and a number from 1 to 500. */
function taughtKeys() {
  const taught = profileFor('CREATE TABLE t (k TEXT, n INTEGER, v TEXT, PRIMARY KEY (k, n)) WITHOUT ROWID')
  taught.fitted = true
  const [key, number] = taught.ranges
  if (!key || !number) throw new Error('a range for each column')
  Object.assign(key, { texts: 200, shortest: 5, longest: 12 })
  Object.assign(number, { numbers: 200, low: 1, high: 500 })
  key.kinds.set([200], 12)
  number.kinds.set([1, 60, 139], 0)
  for (const letter of Buffer.from('abcdefghijklmnoprstuvw-0123456789')) key.letters[letter] = 50
  key.letters[512] = 50 * 33
  return taught
}

// Serial types by "Database File Format", section 2.1: 1, 2, 3 are whole numbers of as many bytes, 13 + 2n a text of n.
describe('lost types', () => {
  it('of a text and a number behind it are told by what live rows hold', () => {
    const taught = taughtKeys()
    expect(typesOf(Buffer.from('violin-331\x01\x07', 'latin1'), 2, taught)).toEqual([13 + 2 * 10, 2])
    expect(typesOf(Buffer.from('thunder\x00\xa3', 'latin1'), 2, taught)).toEqual([13 + 2 * 7, 2])
    // Without them, 3,211,527 behind a shorter text is nearly as good.
    const untaught = likelyTypes(Buffer.from('violin-331\x01\x07', 'latin1'), 0, 12, 2, KEYED, 'utf8')
    expect(untaught?.chance ?? 0).toBeLessThan(0.8)
  })

  it('stay open where the number may be a letter as well', () => {
    // "moon-3" and 59, or "moon-3;" and 0 or 1.
    expect(typesOf(Buffer.from('moon-3;'), 2)).toBe(undefined)
  })

  it('are told with a chance: the more live rows speak against a letter, the surer', () => {
    const chance = (text: string) => likelyTypes(Buffer.from(text, 'latin1'), 0, text.length, 2, taughtKeys(), 'utf8')
    // No key has a form feed; many end in a digit.
    const number = chance('barn-101\x0c')
    expect(number?.types).toEqual([13 + 2 * 8, 1])
    expect(number?.chance).toBeGreaterThan(0.95)
    expect(chance('mill-41;')?.chance).toBeGreaterThan(0.95)
    expect(chance('mill-415')?.chance ?? 0).toBeLessThan(0.9)
  })

  it('are no number that is longer than SQLite would write it', () => {
    expect(typesOf(Buffer.from([0, 5]), 1, profileFor('CREATE TABLE t (n INTEGER, w TEXT)'))).toBe(undefined)
    expect(typesOf(Buffer.from([5, 0]), 1, profileFor('CREATE TABLE t (n INTEGER, w TEXT)'))).toEqual([2])
  })

  it('are what the column is declared for, or stay open', () => {
    const text = profileFor('CREATE TABLE t (n TEXT, w TEXT)')
    expect(typesOf(Buffer.from('hinge'), 1, text)).toEqual([13 + 2 * 5])
    expect(typesOf(Buffer.from([0xff, 0xfe, 0x01]), 1, text)).toBe(undefined)
    // Nothing at all can be NULL or an empty text.
    expect(typesOf(Buffer.alloc(0), 1, text)).toBe(undefined)
  })
})
