import { describe, expect, it } from 'vitest'
import { tableOf } from '../database.js'
import { likelyTypes } from './lost-types.js'
import { profileOf } from './profile.js'

const profileFor = (sql: string) => {
  const table = tableOf({ type: 'table', name: 't', tbl_name: 't', rootpage: 2, sql })
  if (!table) throw new Error('the statement defines no table')
  return profileOf(table, false)
}
const KEYED = profileFor('CREATE TABLE t (k TEXT, n INTEGER, v TEXT, PRIMARY KEY (k, n)) WITHOUT ROWID')
const typesOf = (bytes: Buffer, count: number, profile = KEYED) =>
  likelyTypes(bytes, 0, bytes.length, count, profile, 'utf8')

// Serial types by "Database File Format", section 2.1: 1, 2, 3 are whole numbers of as many bytes, 13 + 2n a text of n.
describe('lost types', () => {
  it('of a text and a number behind it are told by what live rows hold', () => {
    const taught = profileFor('CREATE TABLE t (k TEXT, n INTEGER, v TEXT, PRIMARY KEY (k, n)) WITHOUT ROWID')
    taught.learned = true
    const [key, number] = taught.ranges
    Object.assign(key ?? {}, { texts: 200, shortest: 5, longest: 12 })
    Object.assign(number ?? {}, { numbers: 200, low: 1, high: 500 })
    key?.kinds.set([200], 12)
    number?.kinds.set([1, 60, 139], 0)
    expect(typesOf(Buffer.from('violin-331\x01\x07', 'latin1'), 2, taught)).toEqual([13 + 2 * 10, 2])
    expect(typesOf(Buffer.from('thunder\x00\xa3', 'latin1'), 2, taught)).toEqual([13 + 2 * 7, 2])
    // Without them, 3,211,527 behind a shorter text is as good.
    expect(typesOf(Buffer.from('violin-331\x01\x07', 'latin1'), 2)).toBe(undefined)
  })

  it('stay open where the number may be a letter as well', () => {
    // "moon-3" and 59, or "moon-3;" and 0 or 1.
    expect(typesOf(Buffer.from('moon-3;'), 2)).toBe(undefined)
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
