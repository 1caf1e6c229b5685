import { describe, expect, inject, it } from 'vitest'
import { demoBackup, warnings } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { readLegacyManifest } from './legacy.js'
import { openBackup, readEntry } from './open.js'

// Written by hand from the reference's worked record, byte by byte.
const RECORD = `000a 486f6d65446f6d61696e 000d 4c6962726172792f612e747874 ffff
  0014 aaf4c61ddcc5e8a2dabede0f3b482cd9aea9434d ffff 81a4 0000001122334455
  000001f5 000001f5 4e865800 4e865801 4e865802 0000000000000005 04 00`
const FOLDER =
  '000a 486f6d65446f6d61696e 0007 4c696272617279 ffff ffff ffff 41ed 0000000000000001 000001f5 000001f5 4e865800 4e865800 4e865800 0000000000000000 00 00'
const LINK =
  '000a 486f6d65446f6d61696e 0001 6c 0005 612e747874 ffff ffff a1ff 0000000000000001 000001f5 000001f5 4e865800 4e865800 4e865800 0000000000000000 00 01 0001 78 0002 7979'
const ESCAPE =
  '000a 486f6d65446f6d61696e 0007 2e2e2f612e7478 ffff ffff ffff 81a4 0000000000000001 000001f5 000001f5 4e865800 4e865800 4e865800 0000000000000005 04 00'
const bytes = (...parts: string[]) => Buffer.from(`6d6264620500${parts.join('')}`.replace(/\s/g, ''), 'hex')
const read = async (data: Buffer) => {
  const warned = warnings()
  return { entries: await readLegacyManifest(new MemorySource(data), warned.report), warned: warned.list }
}

describe('a legacy list of files', () => {
  it('gives each record its kind, size, date and id', async () => {
    const { entries, warned } = await read(bytes(FOLDER, RECORD, LINK))
    expect(warned).toEqual([])
    expect(entries.map(({ path, kind }) => [path, kind])).toEqual([
      ['Library', 'directory'],
      ['Library/a.txt', 'file'],
      ['l', 'link'],
    ])
    expect(entries[1]).toMatchObject({ size: 5, key: null, id: '69f7fd2a12638e6e175d5ec8d18b92f836072d85' })
    expect(entries[1]?.modifiedAt?.toISOString()).toBe(new Date(0x4e865800 * 1000).toISOString())
    expect(entries[2]?.target).toBe('a.txt')
  })

  it('finds the next record behind a damaged one, and leaves out what leads outside', async () => {
    const { entries, warned } = await read(bytes(FOLDER, '0003 deadbeef 99', RECORD, ESCAPE, RECORD))
    expect(entries.map((entry) => entry.path)).toEqual(['Library', 'Library/a.txt'])
    expect(warned.map((warning) => warning.code)).toEqual(['manifest-damaged', 'entries-refused'])
  })

  it('never crashes or hangs a reader, whatever is wrong with it', async () => {
    const whole = bytes(FOLDER, RECORD, LINK, RECORD)
    for (let at = 0; at < whole.length; at++) {
      const changed = Buffer.from(whole)
      changed[at] = (changed[at] ?? 0) ^ 0xff
      await readLegacyManifest(new MemorySource(changed), () => {}).catch((thrown) =>
        expect(thrown).toMatchObject({ name: 'FormatError' }),
      )
      await readLegacyManifest(new MemorySource(whole.subarray(0, at)), () => {}).catch((thrown) =>
        expect(thrown).toMatchObject({ name: 'FormatError' }),
      )
    }
  })
})

describe('a legacy backup', () => {
  it('shows every file with its content', async () => {
    const { folder, truth } = demoBackup(inject('demoFolder'), 'legacy')
    const warned = warnings()
    const tree = await openBackup(folder, warned.report)
    expect(warned.list).toEqual([])
    expect(tree.info).toMatchObject({ layout: 'legacy', encrypted: false, deviceName: 'Odile’s old phone' })
    const kept = truth.pictures.filter((picture) => picture.fate !== 'deleted')
    for (const { name } of kept) {
      const entry = tree.find('CameraRollDomain', `Media/DCIM/100APPLE/${name}`)
      expect((entry && (await readEntry(tree, entry, 1 << 24)))?.length).toBe(entry?.size)
    }
  })
})
