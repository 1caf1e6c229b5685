import { describe, expect, it } from 'vitest'
import { RecordView } from '../../record.js'
import {
  BloomFilter,
  columnKeys,
  identityKey,
  isDistinctive,
  rowKey,
  storedIdentityKey,
  storedKey,
  valueKey,
  valueKeys,
} from './keys.js'

const hex = (text: string) => new Uint8Array(Buffer.from(text.replaceAll(' ', ''), 'hex'))

describe('the fingerprint of a value', () => {
  it('tells values apart, and classes of values', () => {
    const values = [
      null,
      undefined,
      0,
      1,
      -1,
      1.5,
      '',
      '0',
      '1',
      'a',
      'b',
      'ab',
      hex(''),
      hex('61'),
      hex('6162'),
      2n ** 60n,
    ]
    expect(new Set(values.map(valueKey)).size).toBe(values.length)
  })

  it('is the same for a whole number, however it comes', () => {
    expect(valueKey(2 ** 60)).toBe(valueKey(2n ** 60n))
    expect(valueKey(-0)).toBe(valueKey(0))
  })

  it('is the same where it is stored, in every encoding', () => {
    const stored = (bytes: string, encoding: RecordView['encoding']) => {
      const view = new RecordView(encoding)
      view.open(hex(bytes))
      return view
    }
    // Text "hi", blob 6869, 42, NULL.
    const utf8 = stored('05 11 10 01 00 6869 6869 2a', 'utf8')
    for (const position of [0, 1, 2, 3]) expect(storedKey(utf8, position)).toBe(valueKey(utf8.value(position)))
    for (const [bytes, encoding] of [
      ['02 11 c3a9', 'utf8'],
      ['02 15 68006900', 'utf16le'],
      ['02 15 00680069', 'utf16be'],
    ] as const) {
      const view = stored(bytes, encoding)
      expect(storedKey(view, 0)).toBe(valueKey(view.value(0)))
    }
  })
})

describe('the fingerprint of a row', () => {
  const keys = valueKeys([1, 'a', null])

  it('depends on its table, its rowid and the order of its values', () => {
    const all = [
      rowKey('t', keys),
      rowKey('u', keys),
      rowKey('t', keys, 1),
      rowKey('t', keys, 2),
      rowKey('t', [...keys].reverse()),
      rowKey('t', keys.slice(0, 2)),
    ]
    expect(new Set(all).size).toBe(all.length)
    expect(rowKey('t', keys, 2 ** 60)).toBe(rowKey('t', keys, 2n ** 60n))
  })

  it.each([
    ['ab', false],
    ['abc', true],
    [hex('010203'), false],
    [hex('01020304'), true],
    [255, false],
    [-256, true],
    [1.5, true],
    [2n ** 60n, true],
    [null, false],
    [undefined, false],
  ])('%s tells one row from another: %s', (value, tells) => {
    expect(isDistinctive(value)).toBe(tells)
    expect(columnKeys([value], valueKeys([value]))).toHaveLength(tells ? 1 : 0)
  })

  it('has the position of each distinctive value in it', () => {
    const values = ['abc', 'abc']
    const [first, second] = columnKeys(values, valueKeys(values))
    expect(first).not.toBe(second)
  })
})

describe('the fingerprint of what a row is known by', () => {
  const record = new RecordView('utf8')

  it('is the same where the row is stored, with defaults for columns that it lacks', () => {
    record.open(hex('03 11 01 6869 2a'))
    const values = ['hi', 42, 'later']
    const defaults = [null, null, 'later']
    for (const positions of [[0], [1], [2], [0, 1], [1, 0], [0, 2]])
      expect(storedIdentityKey(3, positions, record, defaults), `${positions}`).toBe(identityKey(3, positions, values))
    expect(identityKey(3, [0, 1], values)).not.toBe(identityKey(3, [1, 0], values))
    expect(identityKey(3, [0], values)).not.toBe(identityKey(4, [0], values))
  })

  it('is none where a part is NULL or lost: NULLs are never equal', () => {
    record.open(hex('03 00 01 2a'))
    expect(identityKey(1, [0, 1], [null, 42])).toBeUndefined()
    expect(identityKey(1, [1], [null, undefined])).toBeUndefined()
    expect(storedIdentityKey(1, [0], record, [])).toBeUndefined()
    expect(storedIdentityKey(1, [0, 1], record, [])).toBeUndefined()
    expect(storedIdentityKey(1, [5], record, [])).toBeUndefined()
  })
})

describe('a set of fingerprints', () => {
  it('never misses a member, and hardly ever takes a stranger for one', () => {
    const set = new BloomFilter()
    const key = (n: number) => valueKey(`row ${n}`)
    for (let n = 0; n < 100_000; n++) set.add(key(n))
    for (let n = 0; n < 100_000; n++) if (!set.has(key(n))) throw new Error(`row ${n} is missed`)
    let strangers = 0
    for (let n = 100_000; n < 200_000; n++) if (set.has(key(n))) strangers++
    expect(strangers).toBeLessThan(20)
  })
})
