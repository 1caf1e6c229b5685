import { cp, rm, symlink, truncate, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { demoBackup, scratchFolder } from '../../../../tests/setup/fixtures.js'
import { fingerprintOf } from './fingerprint.js'
import { checkIntegrity } from './integrity.js'
import { modelName } from './models.js'
import { openBackup } from './open.js'

describe('the check of a source', () => {
  it.each(['plain', 'encrypted', 'legacy'] as const)('finds nothing wrong with a whole backup: %s', async (which) => {
    const { folder } = demoBackup(inject('demoFolder'), which)
    const report = await checkIntegrity(await openBackup(folder, () => {}, { password: 'seven strings' }))
    expect(report.flawed).toEqual([])
    expect(report.whole).toBe(report.files)
    expect(report.files).toBeGreaterThan(10)
    expect(report.strays).toBe(which === 'plain' ? 1 : 0)
  })

  it('names what is missing, cut or too long, and counts strays', async () => {
    const folder = join(scratchFolder(), 'copy')
    await cp(demoBackup(inject('demoFolder')).folder, folder, { recursive: true })
    const before = await openBackup(folder, () => {})
    const [gone, cut, long] = [...before.entries()].filter((entry) => entry.kind === 'file')
    const file = (id = '') => join(folder, id.slice(0, 2), id)
    await rm(file(gone?.id))
    await truncate(file(cut?.id), 10)
    await writeFile(file(long?.id), Buffer.alloc(1000), { flag: 'a' })
    await writeFile(join(folder, 'ab'.repeat(20)), 'left behind')
    const report = await checkIntegrity(await openBackup(folder, () => {}))
    expect(report.flawed.map(({ path, flaw }) => [path, flaw])).toEqual([
      [gone?.path, 'missing'],
      [cut?.path, 'cut'],
      [long?.path, 'too-long'],
    ])
    expect(report.flawed[1]?.why).toBe(`10 of ${cut?.size} bytes are there`)
    expect(report.whole).toBe(report.files - 3)
    expect(report.strays).toBe(2)
  })
})

describe('a link in the place of a content file', () => {
  it('is never followed: the file is missing, and the rest is still checked', async () => {
    const folder = join(scratchFolder(), 'copy')
    await cp(demoBackup(inject('demoFolder')).folder, folder, { recursive: true })
    const tree = await openBackup(folder, () => {})
    const store = tree.find('HomeDomain', 'Library/SMS/sms.db')
    const file = join(folder, store?.id.slice(0, 2) ?? '', store?.id ?? '')
    const before = await fingerprintOf(tree)
    await rm(file)
    await symlink('/etc/passwd', file)
    expect((await checkIntegrity(tree)).flawed.map(({ path, flaw }) => [path, flaw])).toEqual([
      [store?.path, 'missing'],
    ])
    expect((await fingerprintOf(tree)).files).toBe(before.files - 1)
  })
})

describe('a model in words', () => {
  it.each([
    ['iPhone14,5', 'iPhone 13'],
    ['iPad99,1', 'iPad99,1'],
    ['toString', 'toString'],
    [null, null],
  ])('of %s is %s', (type, name) => expect(modelName(type)).toBe(name))
})
