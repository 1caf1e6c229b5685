import { createHash, pbkdf2Sync, randomBytes, scryptSync } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { cp, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { BackupBuilder } from '@lumbrin/standins/backup/builder'
import { Lock } from '@lumbrin/standins/backup/lock'
import { describe, expect, inject, it } from 'vitest'
import { demoBackup, scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { FileSource } from '../io/file.js'
import { MemorySource } from '../io/source.js'
import { DecryptedSource, fileKey } from './decrypted.js'
import { readKeys } from './info.js'
import { parseKeybag, unwrapKey } from './keybag.js'
import { openBackup, readEntry, unlockBackup } from './open.js'
import { passwordKey, unlock } from './unlock.js'

const hex = (text: string) => Buffer.from(text, 'hex')
const bag = (settings: ConstructorParameters<typeof Lock>[0]) => parseKeybag(new Lock(settings, 'seed').keybag)

describe('key unwrapping', () => {
  // RFC 3394, sections 4.3 and 4.6: a 128-bit and a 256-bit key under a 256-bit one; 4.1: 128 bits under 128.
  it.each([
    [
      '000102030405060708090a0b0c0d0e0f',
      '1fa68b0a8112b447aef34bd8fb5a7b829d3e862371d2cfe5',
      '00112233445566778899aabbccddeeff',
    ],
    [
      '000102030405060708090a0b0c0d0e0f101112131415161718191a1b1c1d1e1f',
      '64e8c3f9ce0f5ba263e9777905818a2a93c8191e7d6e8ae7',
      '00112233445566778899aabbccddeeff',
    ],
    [
      '000102030405060708090a0b0c0d0e0f101112131415161718191a1b1c1d1e1f',
      '28c9f404c4b810f4cbccb35cfb87f8263f5786e2d80ed326cbc7f0e71a99f43bfb988b9b7a02dd21',
      '00112233445566778899aabbccddeeff000102030405060708090a0b0c0d0e0f',
    ],
  ])('gives the key of RFC 3394 under %s', (wrapping, wrapped, key) => {
    expect(Buffer.from(unwrapKey(hex(wrapping), hex(wrapped)) ?? []).toString('hex')).toBe(key)
    const changed = hex(wrapped)
    changed[3] = (changed[3] ?? 0) ^ 1
    expect(unwrapKey(hex(wrapping), changed)).toBeUndefined()
  })

  it('refuses keys and wraps of impossible length', () => {
    for (const length of [0, 7, 16, 25]) expect(unwrapKey(randomBytes(32), randomBytes(length))).toBeUndefined()
    expect(unwrapKey(randomBytes(5), randomBytes(40))).toBeUndefined()
  })
})

describe('key derivation', () => {
  // RFC 6070, section 2, cases of 1 and 4096 rounds: an older bag is that derivation and nothing else, with 32 bytes
  // of output, of which the first 20 are those of the RFC.
  it.each([
    [1, '0c60c80f961f0e71f3a9b524af6012062fe037a6'],
    [4096, '4b007901b765489abead49d926f721d065a429c1'],
  ])('of %i rounds starts like RFC 6070', async (iterations, expected) => {
    const keybag = { ...bag({ password: 'x' }), salt: Buffer.from('salt'), iterations, first: undefined }
    const key = Buffer.from(await passwordKey(keybag, 'password'))
    expect(key.toString('hex').startsWith(expected)).toBe(true)
  })

  // RFC 7914, section 11: PBKDF2-HMAC-SHA256 of 64 bytes, of which the newer bags take the first 32.
  it.each([
    ['passwd', 'salt', 1, '55ac046e56e3089fec1691c22544b605f94185216dde0465e68b9d57c20dacbc'],
    ['Password', 'NaCl', 80_000, '4ddcd8f60b98be21830cee5ef22701f9641a4418d04c0414aeff08876b34ab56'],
  ])('of the first step is RFC 7914 (%s)', async (password, salt, iterations, expected) => {
    const keybag = {
      ...bag({ password: 'x' }),
      salt: Buffer.from('s'),
      iterations: 1,
      first: { salt: Buffer.from(salt), iterations },
    }
    const key = await passwordKey(keybag, password)
    expect(Buffer.from(key)).toEqual(pbkdf2Sync(hex(expected), 's', 1, 32, 'sha1'))
  })

  it('tells how far it is, never backwards', async () => {
    const shares: number[] = []
    const keybag = { ...bag({ password: 'x' }), first: { salt: Buffer.from('s'), iterations: 1_500_000 } }
    await passwordKey(keybag, 'x', (share) => void shares.push(share))
    expect(shares.length).toBeGreaterThan(0)
    expect([...shares].sort((a, b) => a - b)).toEqual(shares)
    expect(Math.max(...shares)).toBeLessThan(1)
  })
})

describe('a key bag', () => {
  it.each([{ password: 'pässwörd' }, { password: 'pässwörd', firstRounds: 1000 }])(
    'opens with its password in any form of its accents: %o',
    async (settings) => {
      for (const form of ['NFC', 'NFD'] as const)
        expect((await unlock(bag(settings), 'pässwörd'.normalize(form), () => {})).size).toBe(7)
      await expect(unlock(bag(settings), 'password', () => {})).rejects.toMatchObject({ code: 'password-wrong' })
    },
  )

  it('that is damaged in part opens in part, with a warning', async () => {
    const keybag = bag({ password: 'p' })
    keybag.classes.get(3)?.fill(0, 0, 8)
    const warned = warnings()
    expect((await unlock(keybag, 'p', warned.report)).has(3)).toBe(false)
    expect(warned.list[0]).toMatchObject({ code: 'keybag-damaged' })
    expect(warned.list[0]?.message).toContain('classes 3')
  })

  it('never crashes a reader, whatever byte of it is wrong, and never asks for absurd work', () => {
    const whole = new Lock({ password: 'p', firstRounds: 10 }, 'seed').keybag
    for (let at = 0; at < whole.length; at++)
      for (const value of [0, 0xff, (whole[at] ?? 0) ^ 0x80]) {
        const changed = Buffer.from(whole)
        changed[at] = value
        try {
          const { iterations, first } = parseKeybag(changed)
          expect(Math.max(iterations, first?.iterations ?? 0)).toBeLessThanOrEqual(200_000_000)
        } catch (thrown) {
          expect(thrown).toMatchObject({ name: 'FormatError' })
        }
      }
    for (let length = 0; length < whole.length; length += 7)
      try {
        parseKeybag(whole.subarray(0, length))
      } catch (thrown) {
        expect(thrown).toMatchObject({ name: 'FormatError' })
      }
  })
})

describe('decryption', () => {
  it('gives what OpenSSL encrypted, in any range', async () => {
    const folder = scratchFolder()
    const content = scryptSync('content', 'salt', 100_003)
    const key = createHash('sha256').update('key').digest()
    writeFileSync(join(folder, 'plain'), content)
    tool(
      'openssl',
      ...'enc -aes-256-cbc -K'.split(' '),
      key.toString('hex'),
      '-iv',
      '0'.repeat(32),
      '-in',
      join(folder, 'plain'),
      '-out',
      join(folder, 'sealed'),
    )
    for (const size of [content.length, null]) {
      const source = new DecryptedSource(await FileSource.open(join(folder, 'sealed')), key, size)
      expect(source.size).toBe(content.length)
      for (const [start, end] of [
        [0, 100_003],
        [0, 1],
        [15, 17],
        [16, 32],
        [99_999, 100_003],
        [50_001, 70_007],
        [7, 7],
      ] as const) {
        expect(Buffer.from(await source.read(start, end))).toEqual(content.subarray(start, end))
        expect(Buffer.from(source.readSync(start, end))).toEqual(content.subarray(start, end))
      }
      await expect(source.read(0, 100_004)).rejects.toMatchObject({ code: 'truncated' })
      await source.close()
    }
  })

  it('of a file that was cut gives what is there', () => {
    const key = createHash('sha256').update('key').digest()
    expect(new DecryptedSource(new MemorySource(randomBytes(1003)), key, 5000).size).toBe(992)
    expect(new DecryptedSource(new MemorySource(randomBytes(7)), key, null).size).toBe(0)
  })
})

describe('an encrypted backup', () => {
  const { folder } = demoBackup(inject('demoFolder'), 'encrypted')

  it('wants its password, says so when it is wrong, and then shows what was written', async () => {
    await expect(openBackup(folder, () => {})).rejects.toMatchObject({ code: 'password-needed' })
    await expect(openBackup(folder, () => {}, { password: 'eight strings' })).rejects.toMatchObject({
      code: 'password-wrong',
    })
    const tree = await openBackup(folder, () => {}, { password: 'seven strings' })
    const photo = [...tree.entries()].find((entry) => entry.path.endsWith('.JPG'))
    const bytes = photo && (await readEntry(tree, photo, 1 << 24))
    expect(
      Buffer.from(bytes ?? [])
        .subarray(0, 3)
        .toString('hex'),
    ).toBe('ffd8ff')
    expect(bytes?.length).toBe(photo?.size)
  })

  it('gives no content out whose key cannot be read: it would be what lies there, encrypted', async () => {
    const copy = join(scratchFolder(), 'copy')
    await cp(folder, copy, { recursive: true })
    const file = join(copy, 'Manifest.db')
    const keys = await unlockBackup(copy, { password: 'seven strings' }, () => {})
    const key = fileKey(keys, (await readKeys(copy)).manifestKey ?? new Uint8Array())
    const sealed = new MemorySource(await readFile(file))
    const plain = new DecryptedSource(sealed, key ?? new Uint8Array(), null)
    await writeFile(file, await plain.read(0, plain.size))
    tool('sqlite3', file, "UPDATE Files SET file = x'00' WHERE relativePath LIKE '%.JPG'")
    const tree = await openBackup(copy, () => {}, { password: 'seven strings' })
    const photo = [...tree.entries()].find((entry) => entry.path.endsWith('.JPG'))
    expect(photo).toMatchObject({ size: null })
    expect(photo && tree.opens(photo)).toBe(false)
    expect(photo && (await tree.open(photo))).toBe(undefined)
  })

  it('of the older kind opens as well', async () => {
    const made = scratchFolder()
    const device = {
      name: 'x',
      productType: 'x',
      osVersion: '9.3',
      udid: 'a'.repeat(40),
      takenAt: new Date('2016-01-01'),
    }
    for (const layout of ['modern', 'legacy'] as const) {
      const builder = new BackupBuilder(join(made, layout), device, { layout, lock: { password: 'p' } })
      await builder.addFile('HomeDomain', 'Library/a.txt', Buffer.from('hello'))
      await builder.addFile('HomeDomain', 'Library/empty.txt', Buffer.alloc(0))
      await builder.finish()
      const tree = await openBackup(join(made, layout), () => {}, { password: 'p' })
      const read = async (path: string) => {
        const entry = tree.find('HomeDomain', path)
        return entry && Buffer.from((await readEntry(tree, entry, 100)) ?? []).toString()
      }
      expect(await read('Library/a.txt')).toBe('hello')
      expect(await read('Library/empty.txt')).toBe('')
    }
  })

  it('with a damaged manifest or key bag says so, and does not blame the password', async () => {
    const copy = join(scratchFolder(), 'copy')
    await cp(folder, copy, { recursive: true })
    const manifest = await readFile(join(copy, 'Manifest.db'))
    await writeFile(join(copy, 'Manifest.db'), manifest.subarray(32))
    await expect(openBackup(copy, () => {}, { password: 'seven strings' })).rejects.toMatchObject({
      code: 'not-readable',
    })
    await writeFile(join(copy, 'Manifest.db'), manifest)
    const plist = readFileSync(join(copy, 'Manifest.plist'))
    plist.write('XXXX', plist.indexOf('SALT'))
    await writeFile(join(copy, 'Manifest.plist'), plist)
    await expect(openBackup(copy, () => {}, { password: 'seven strings' })).rejects.toMatchObject({
      code: 'not-readable',
    })
  })
})
