import { buildBinary } from 'plist'
import { describe, expect, it } from 'vitest'
import { unarchive } from './keyed.js'
import { parsePlist, parsePlistDict } from './read.js'

describe('property lists', () => {
  it('reads the binary sample of the reference, computed with a general library', () => {
    const hex =
      '62706c6973743030d40102030405060708516151645173517510013341c1de0c4000000062006800e980050811131517191b242900000000000001010000000000000009000000000000000000000000000000 2b'
    expect(parsePlist(Buffer.from(hex.replaceAll(' ', ''), 'hex'))).toEqual({
      a: 1,
      s: 'hé',
      u: { UID: 5 },
      d: new Date('2020-01-01T00:00:00Z'),
    })
  })

  it('reads XML, without following entities', () => {
    const xml =
      '<?xml version="1.0"?><plist version="1.0"><dict><key>n</key><integer>7</integer><key>t</key><true/></dict></plist>'
    expect(parsePlistDict(Buffer.from(xml))).toEqual({ n: 7, t: true })
  })

  it.each([
    ['nothing', ''],
    ['a cut binary list', 'bplist00\x01'],
    ['words', 'no list'],
    ['a list where a dictionary must be', '<plist><array/></plist>'],
  ])('refuses %s', (_, text) => {
    expect(() => parsePlistDict(Buffer.from(text, 'latin1'))).toThrow(expect.objectContaining({ name: 'FormatError' }))
  })
})

describe('keyed archives', () => {
  const archive = (...objects: unknown[]) =>
    buildBinary({
      $version: 100000,
      $archiver: 'NSKeyedArchiver',
      $top: { root: { UID: 1 } },
      $objects: ['$null', ...objects],
    } as never)

  it('follows references into plain values', () => {
    const bytes = archive(
      { 'NS.keys': [{ UID: 2 }, { UID: 3 }], 'NS.objects': [{ UID: 4 }, { UID: 5 }], $class: { UID: 6 } },
      'when',
      'list',
      { 'NS.time': 0, $class: { UID: 6 } },
      { 'NS.objects': [{ UID: 2 }, { UID: 0 }], $class: { UID: 6 } },
      { $classname: 'NSDictionary', $classes: ['NSDictionary'] },
    )
    expect(unarchive(bytes)).toEqual({ when: new Date('2001-01-01T00:00:00Z'), list: ['when', null] })
  })

  it('ends where an object holds itself', () => {
    expect(unarchive(archive({ me: { UID: 1 }, name: 'loop' }))).toEqual({ me: null, name: 'loop' })
  })

  it('refuses an archive that nests without end', () => {
    const deep = Array.from({ length: 100 }, (_, i) => ({ next: { UID: i + 2 } }))
    expect(() => unarchive(archive(...deep))).toThrow('nested')
  })
})
