import { spawnSync } from 'node:child_process'
import { cpSync, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileIdOf } from '@lumbrin/core/backup/manifest-values'
import { describe, expect, inject, it } from 'vitest'
import { demoBackup, scratchFolder, tool } from '../../../tests/setup/fixtures.js'

const { folder, truth } = demoBackup(inject('demoFolder'))

/** The pages of packages, as `bin/lumbrin.mjs` names them. `npm run build` and `npm test` build them. */
const LUMBRIN_SITE = 'apps/workbench/dist/site'

/** Runs the command line as it is built for use. */
function lumbrin(...words: string[]) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(inject('programs'), 'cli/lumbrin.mjs'), ...words],
    { encoding: 'utf8', maxBuffer: 1 << 28, env: { ...process.env, LUMBRIN_SITE } },
  )
  const lines =
    stdout.trim() === ''
      ? []
      : stdout
          .trim()
          .split('\n')
          .map((line) => JSON.parse(line))
  return { status, lines, stderr }
}

describe('lumbrin sources', () => {
  it('prints a line for each backup below a folder', () => {
    const { status, lines } = lumbrin('sources', inject('demoFolder'))
    expect(status).toBe(0)
    expect(lines.map(({ layout, encrypted }) => [layout, encrypted])).toEqual([
      ['modern', false],
      ['modern', true],
      ['legacy', false],
    ])
    expect(lines.slice(0, 1)).toEqual([
      {
        path: folder,
        kind: 'computer-backup',
        layout: 'modern',
        deviceName: 'Odile’s phone',
        productType: 'iPhone14,5',
        osVersion: '17.6.1',
        uniqueId: '00008110-0007A5C22E8B401E',
        takenAt: '2026-11-14T20:15:00.000Z',
        encrypted: false,
        bytes: expect.any(Number),
        files: expect.any(Number),
      },
    ])
  })
})

describe('lumbrin read', () => {
  it('opens a locked backup with its password only, and says which it lacks by its exit code', () => {
    const locked = demoBackup(inject('demoFolder'), 'encrypted')
    const passwords = scratchFolder()
    writeFileSync(join(passwords, 'right'), 'seven strings\nand a note')
    writeFileSync(join(passwords, 'wrong'), 'eight strings\n')
    const read = (...words: string[]) =>
      lumbrin('read', locked.folder, '--only', 'messages', '--passes', 'live', ...words)
    const { status, lines } = read('--password-file', join(passwords, 'right'))
    expect(status).toBe(0)
    expect(new Set(lines.map((line) => line.fields.guid))).toEqual(
      new Set(locked.truth.messages.map((one) => one.guid)),
    )
    expect(read()).toMatchObject({ status: 4, lines: [] })
    expect(read('--password-file', join(passwords, 'wrong'))).toMatchObject({ status: 4, lines: [] })
    expect(read('--password-file', join(passwords, 'none')).status).toBe(2)
  })

  it('reads a backup in the legacy layout', () => {
    const old = demoBackup(inject('demoFolder'), 'legacy')
    const { status, lines } = lumbrin('read', old.folder, '--only', 'photos', '--passes', 'live')
    expect(status).toBe(0)
    const names = old.truth.pictures.filter((picture) => picture.fate !== 'deleted').map((picture) => picture.name)
    expect(new Set(lines.map((line) => line.fields.fileName))).toEqual(new Set(names))
  })

  it('prints every live message, and the rebuilt ones with their place', () => {
    const { status, lines } = lumbrin('read', folder, '--only', 'messages')
    expect(status).toBe(0)
    const byGuid = new Map(lines.map((line) => [line.fields.guid, line]))
    for (const message of truth.messages.filter((one) => one.fate === 'live'))
      expect(byGuid.get(message.guid)).toMatchObject({
        category: 'messages',
        condition: 'live',
        when: message.at,
        text: message.text,
        fields: { conversation: message.chat },
      })
    const rebuilt = lines.filter((line) => line.condition === 'rebuilt')
    expect(rebuilt.length).toBeGreaterThan(0)
    const places = ['freelist', 'freeblock', 'gap']
    expect(
      rebuilt.every((line) => places.includes(line.origin.place) && line.origin.page > 1 && line.origin.offset > 0),
    ).toBe(true)
  })

  it('gives the checksum of contents, and exactly the documented keys', () => {
    const { lines } = lumbrin('read', folder, '--only', 'photos', '--passes', 'live')
    const id = fileIdOf('CameraRollDomain', lines[0].fields.path)
    expect(lines[0].content).toEqual({
      name: lines[0].title,
      bytes: readFileSync(join(folder, id.slice(0, 2), id)).length,
      mime: 'image/jpeg',
      sha256: tool('sha256sum', join(folder, id.slice(0, 2), id)).slice(0, 64),
    })
    expect(Object.keys(lines[0])).toEqual([
      'category',
      'condition',
      'when',
      'title',
      'text',
      'fields',
      'content',
      'origin',
      'missing',
      'confidence',
    ])
  })

  it('writes a file whole or not at all', () => {
    const out = join(scratchFolder(), 'read.jsonl')
    expect(lumbrin('read', folder, '--only', 'photos', '--out', out).status).toBe(0)
    expect(readFileSync(out, 'utf8').trim().split('\n').length).toBeGreaterThan(10)
    expect(existsSync(`${out}.part`)).toBe(false)
  })

  it('reads the rest of a damaged source, with warnings and exit code 0', () => {
    const copy = join(scratchFolder(), 'copy')
    cpSync(folder, copy, { recursive: true })
    const id = fileIdOf('HomeDomain', 'Library/SMS/sms.db')
    writeFileSync(join(copy, id.slice(0, 2), id), 'not a database')
    const picture = truth.pictures.find((one) => one.fate === 'live')
    const pictureId = fileIdOf('CameraRollDomain', `Media/DCIM/100APPLE/${picture?.name}`)
    rmSync(join(copy, pictureId.slice(0, 2), pictureId))
    const { status, lines, stderr } = lumbrin('read', copy)
    expect(status).toBe(0)
    expect(stderr).toContain('warning: Library/SMS/sms.db cannot be read')
    expect(lines.find((line) => line.fields.uuid === picture?.uuid)).toMatchObject({
      content: null,
      fields: { contentMissing: true },
    })
  })

  it.each([
    ['no backup', () => scratchFolder(), 3],
    ['no folder', () => '/nowhere/at/all', 3],
  ])('says what is wrong with %s, exit code %i', (_, make, code) => {
    const { status, stderr, lines } = lumbrin('read', make())
    expect({ status, lines }).toEqual({ status: code, lines: [] })
    expect(stderr).toMatch(/^lumbrin: /)
  })

  it.each([
    [[]],
    [['unknown']],
    [['read']],
    [['read', 'a', 'b']],
    [['read', 'a', '--only', 'nonsense']],
    [['read', 'a', '--wrong']],
    [['handover', 'a']],
  ])('wrong words %j: exit code 2', (words) => {
    expect(lumbrin(...words).status).toBe(2)
  })
})

describe('lumbrin handover', () => {
  it('writes a package that verifies, and prints its summary', () => {
    const to = join(scratchFolder(), 'package')
    const { status, lines } = lumbrin('handover', folder, '--to', to, '--only', 'messages', '--condition', 'rebuilt')
    expect(status).toBe(0)
    expect(lines[0]).toMatchObject({ path: to, problems: [], counts: { messages: { rebuilt: lines[0].items } } })
    tool('sh', '-c', `cd '${to}' && sha256sum -c --quiet manifest-sha256.txt tagmanifest-sha256.txt`)
    expect(readFileSync(join(to, 'index.html'), 'utf8')).toContain('data/site/site.js')
    expect(readFileSync(join(to, 'data/site/start.js'), 'utf8')).toContain('messages')
  })

  it('takes what matches a text', () => {
    const to = join(scratchFolder(), 'package')
    const { lines } = lumbrin('handover', folder, '--to', to, '--only', 'messages', '--match', 'vorhang')
    expect(lines[0].items).toBeGreaterThan(0)
    expect(
      readFileSync(join(to, 'data/index.jsonl'), 'utf8')
        .trim()
        .split('\n')
        .every((line) => line.includes('Vorhang')),
    ).toBe(true)
  })

  it('refuses a folder with something in it, exit code 1, and touches nothing', () => {
    const to = scratchFolder()
    writeFileSync(join(to, 'mine.txt'), 'keep me')
    expect(lumbrin('handover', folder, '--to', to).status).toBe(1)
    expect(readdirSync(to)).toEqual(['mine.txt'])
  })
})
