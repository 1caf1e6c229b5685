import { copyFileSync, existsSync, readFileSync, statSync, utimesSync } from 'node:fs'
import { join } from 'node:path'
import sqlite from 'node-sqlite3-wasm'
import { describe, expect, it } from 'vitest'
import { scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { readManifest } from './manifest.js'
import { fileIdOf, isInnerPathText, keyOfId } from './manifest-values.js'
import { openBackup } from './open.js'

const FILES = 'CREATE TABLE Files (fileID TEXT PRIMARY KEY, domain TEXT, relativePath TEXT, flags INTEGER, file BLOB);'
type Line = [id: string, domain: string, path: string, flags: unknown]

const line = (domain: string, path: string, flags: unknown = 1): Line => [fileIdOf(domain, path), domain, path, flags]

function made(lines: readonly Line[], { before = '', table = FILES, after = '' } = {}): string {
  const file = join(scratchFolder(), 'Manifest.db')
  const database = new sqlite.Database(file)
  database.exec(`${before}${table}`)
  for (const values of lines) database.run('INSERT INTO Files VALUES (?, ?, ?, ?, NULL)', values as never)
  database.exec(after)
  database.close()
  return file
}

function listed(file: string) {
  const warned = warnings()
  return { list: readManifest(new MemorySource(readFileSync(file)), warned.report), warned: warned.list }
}

describe('a list of files', () => {
  const places = [
    line('HomeDomain', 'Library/Notes/notes.sqlite'),
    line('CameraRollDomain', 'Media/DCIM/100APPLE', 2),
    line('HomeDomain', '', 2),
    line('HomeDomain', 'Library/a lien é', 4),
    line('CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.JPG'),
  ]

  it.each(['UTF-8', 'UTF-16le', 'UTF-16be'])('is the same in %s, by domain and in whole', (encoding) => {
    const { list, warned } = listed(made(places, { before: `PRAGMA encoding='${encoding}';` }))
    expect(warned).toEqual([])
    expect(list.count).toBe(places.length)
    expect(list.all().map(({ id, domain, path }) => [id, domain, path])).toEqual(places.map((one) => one.slice(0, 3)))
    expect(list.of('HomeDomain').map(({ path, kind }) => [path, kind])).toEqual([
      ['Library/Notes/notes.sqlite', 'file'],
      ['', 'directory'],
      ['Library/a lien é', 'link'],
    ])
    expect(list.of('OtherDomain')).toEqual([])
  })

  it('gives the same entry each time it is asked', () => {
    const { list } = listed(made(places))
    const [first] = list.of('CameraRollDomain')
    expect(first).toBeDefined()
    expect(list.all()).toContain(first)
    expect(list.of('CameraRollDomain')[0]).toBe(first)
  })

  it.each<[string, Line]>([
    ['a path that leads outside', line('HomeDomain', '../../etc/passwd')],
    ['a path from the root', line('HomeDomain', '/etc/passwd')],
    ['a path with a hidden end', line('HomeDomain', 'Library/..')],
    ['an id that is a path', ['../../../../../../etc/passwd/aaaaaaaaaaaaa', 'HomeDomain', 'x', 1]],
    ['an id in capitals', [fileIdOf('HomeDomain', 'x').toUpperCase(), 'HomeDomain', 'x', 1]],
    ['an id that is too short', [fileIdOf('HomeDomain', 'x').slice(1), 'HomeDomain', 'x', 1]],
    ['a kind that is none', line('HomeDomain', 'x', 3)],
    ['a kind in words', line('HomeDomain', 'x', 'toString')],
  ])('leaves out %s, and says so', (_, hostile) => {
    const { list, warned } = listed(made([...places, hostile]))
    expect(list.count).toBe(places.length)
    expect(warned).toMatchObject([{ code: 'entries-refused', message: expect.stringContaining('1 entries') }])
  })

  it('keeps ids apart that begin alike, and takes one that comes twice once', () => {
    const id = fileIdOf('HomeDomain', 'x')
    const alike = `${id.slice(0, 39)}${id.endsWith('0') ? '1' : '0'}`
    const { list, warned } = listed(
      made(
        [
          [id, 'HomeDomain', 'x', 1],
          [alike, 'HomeDomain', 'y', 1],
          [id, 'HomeDomain', 'z', 1],
          line('HomeDomain', 'w'),
        ],
        { table: FILES.replace(' PRIMARY KEY', '') },
      ),
    )
    expect(list.all().map(({ path }) => path)).toEqual(['x', 'y', 'w'])
    expect(warned).toHaveLength(1)
  })

  it('that was changed after it was opened is not read as if it were the same', async () => {
    const folder = scratchFolder()
    // Its pages are more than are kept in memory.
    copyFileSync(
      made(places, { after: 'UPDATE Files SET file = zeroblob(20000000) WHERE flags = 4' }),
      join(folder, 'Manifest.db'),
    )
    const tree = await openBackup(folder, () => {})
    utimesSync(join(folder, 'Manifest.db'), 1, 1)
    expect(() => tree.find('HomeDomain', 'Library/Notes/notes.sqlite')).toThrow(
      expect.objectContaining({
        name: 'SourceError',
        code: 'not-readable',
        message: expect.stringContaining('changed'),
      }),
    )
  })

  it('has its newest rows in its log where the copy was made while it was in use', async () => {
    const folder = scratchFolder()
    const file = join(folder, 'Manifest.db')
    const live = new sqlite.Database(file)
    live.exec(`PRAGMA locking_mode=EXCLUSIVE; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${FILES}`)
    for (const values of places) live.run('INSERT INTO Files VALUES (?, ?, ?, ?, NULL)', values as never)
    const copy = scratchFolder()
    copyFileSync(file, join(copy, 'Manifest.db'))
    copyFileSync(`${file}-wal`, join(copy, 'Manifest.db-wal'))
    live.close()
    expect(existsSync(`${file}-wal`) && statSync(`${file}-wal`).size > 0).toBe(false)
    const tree = await openBackup(copy, () => {})
    expect(tree.fileCount).toBe(places.length)
    expect(tree.find('HomeDomain', '')?.kind).toBe('directory')
  })
})

describe('the values of a list of files', () => {
  it('ids are those that sha1sum gives', () => {
    const sum = tool('sh', '-c', "printf 'HomeDomain-Library/Notes/notes.sqlite' | sha1sum").slice(0, 40)
    expect(fileIdOf('HomeDomain', 'Library/Notes/notes.sqlite')).toBe(sum)
  })

  it('the key of an id is the number that its first 13 digits are', () => {
    const id = 'fffffffffffff0123456789abcdef0123456789a'
    expect(keyOfId(Buffer.from(`..${id}`), 2, 42)).toBe(2 ** 52 - 1)
    expect(keyOfId(Buffer.from('00000000000010123456789abcdef0123456789a'), 0, 40)).toBe(1)
    expect(keyOfId(Buffer.from(id.replace('a', 'g')), 0, 40)).toBe(-1)
    expect(keyOfId(Buffer.from(id.replace('a', ':')), 0, 40)).toBe(-1)
  })

  it.each([
    ['a/b', true],
    ['', true],
    ['..a/b..', true],
    ['a/...', true],
    ['.', true],
    ['a/./b', true],
    ['..', false],
    ['a/..', false],
    ['a/../b', false],
    ['../b', false],
    ['/a', false],
    ['a\0', false],
  ])('a path of %j is inside: %s', (path, inside) => {
    expect(isInnerPathText(path)).toBe(inside)
  })
})
