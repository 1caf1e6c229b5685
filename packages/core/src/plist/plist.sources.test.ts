import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { buildBinary } from 'plist'
import { describe, expect, inject, it, vi } from 'vitest'
import { demoBackup, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { unarchive } from './keyed.js'
import { parsePlist, parsePlistDict } from './read.js'

/** Bytes as base64, whatever class holds them. */
const plain = (value: unknown): unknown => {
  if (value instanceof Uint8Array) return Buffer.from(value).toString('base64')
  if (Array.isArray(value)) return value.map(plain)
  if (value instanceof Date || typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, plain(one)]))
}

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

  it('tells the console nothing of what stands in a damaged one', () => {
    const said = vi.spyOn(console, 'error')
    const secret = 'the marionette is under the stage'
    for (const xml of [
      `<?xml version="1.0"?><plist version="1.0"><dict><key ${secret}?>n</key></dict></plist>`,
      `<plist><dict><key>${secret}</key><string>x</strong></dict>`,
      `<?jxml?><plist>${secret}</plist>trailing ${secret}`,
    ])
      try {
        parsePlist(Buffer.from(xml))
      } catch (thrown) {
        expect(thrown).toMatchObject({ name: 'FormatError' })
      }
    expect(said).not.toHaveBeenCalled()
    console.error('others are heard')
    expect(said).toHaveBeenCalledTimes(1)
    said.mockRestore()
  })

  // Debian's plistutil (libplist) turns one form into the other: both must read alike.
  it('reads what a general tool converts, in either form', () => {
    const folder = scratchFolder()
    for (const name of ['Info.plist', 'Manifest.plist', 'Status.plist']) {
      const path = join(demoBackup(inject('demoFolder'), 'encrypted').folder, name)
      const ours = parsePlistDict(readFileSync(path))
      for (const format of ['xml', 'bin']) {
        const converted = join(folder, `${name}.${format}`)
        tool('plistutil', '-i', path, '-o', converted, '-f', format)
        expect(plain(parsePlistDict(readFileSync(converted)))).toEqual(plain(ours))
      }
    }
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
