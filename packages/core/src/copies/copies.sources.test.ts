import { execFileSync, spawnSync } from 'node:child_process'
import {
  chmodSync,
  cpSync,
  existsSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { DEMO_PASSWORD } from '@lumbrin/standins/demo/build'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { copyOf, LivedDevice } from '../../../../tests/setup/lived-device.js'
import { readStep } from '../categories/read.js'
import { openSource } from '../collected/open.js'
import { readAll } from '../io/source.js'
import { CopyChecker } from './check.js'
import { differentFiles, withChanges } from './compare.js'
import { contentPath } from './layout.js'
import { makeCopy } from './make.js'
import { copyPlace, removePlace } from './move.js'
import { copiesIn, linesOf, type SafeCopy } from './place.js'
import { removeCopies } from './remove.js'

const NOBODY = { report: () => {} }

const SCRIPT = `import hashlib, json, os, sys
# Knows of a copy only what docs/copies.md says.
copy = sys.argv[1]
place = os.path.dirname(os.path.dirname(os.path.dirname(os.path.abspath(copy))))
read = 0
for line in open(os.path.join(copy, 'files.jsonl'), encoding='utf-8'):
    entry = json.loads(line)
    if entry['kind'] != 'file' or entry['sha256'] is None: continue
    with open(os.path.join(place, 'content', entry['sha256'][:2], entry['sha256']), 'rb') as content:
        assert hashlib.sha256(content.read()).hexdigest() == entry['sha256'], entry['path']
    read += 1
assert read == json.load(open(os.path.join(copy, 'copy.json')))['files']
print(read)`

/** Bytes of all contents of a place. */
const stored = (place: string) =>
  readdirSync(join(place, 'content'), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .reduce((sum, { parentPath, name }) => sum + statSync(join(parentPath, name)).size, 0)

/** The contents of a place, by their sums. */
const contentsIn = (place: string) =>
  new Set(
    readdirSync(join(place, 'content'), { recursive: true })
      .filter((name) => String(name).length > 60)
      .map((name) => String(name).slice(3)),
  )

describe('safe copies', () => {
  it('of many weeks take the room of what is different, and each is whole for general programs', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    const distinct = new Map<string, number>()
    const truths: { folder: string; files: Map<string, Buffer> }[] = []
    for (let week = 0; week < 12; week++) {
      device.live()
      const { copy, made } = await copyOf(await device.backup(scratchFolder()), place)
      expect(made).toBe(true)
      for (const { content } of device.files.values()) distinct.set(content.toString('base64'), content.length)
      truths.push({
        folder: copy.folder,
        files: new Map([...device.files].map(([path, { content }]) => [path, content])),
      })
    }
    const total = [...distinct.values()].reduce((sum, length) => sum + length, 0)
    expect(stored(place)).toBeLessThanOrEqual(total * 1.05)
    for (const { folder, files } of truths) {
      execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt'], { cwd: folder })
      execFileSync('sha256sum', ['-c', '--quiet', 'tagmanifest-sha256.txt'], { cwd: folder })
      expect(Number(tool('/usr/bin/python3', '-c', SCRIPT, folder))).toBe(files.size)
      const tree = await openSource(folder, () => {})
      for (const [path, content] of files) {
        const entry = tree.find('CameraRollDomain', path)
        const source = entry && (await tree.open(entry))
        expect(source && Buffer.from(await readAll(source, 1 << 20)).equals(content), path).toBe(true)
        await source?.close()
      }
      await tree.close()
    }
    const listed = await withChanges((await copiesIn(place)).copies)
    expect(listed.map(({ added, changed, gone }) => [added > 0, changed > 0, gone])).toEqual([
      [true, false, 0],
      ...Array.from({ length: 11 }, () => [true, true, 1]),
    ])
  })

  it('read only what changed since the one before, unless all is asked for', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    await copyOf(await device.backup(scratchFolder()), place)
    device.live()
    const folder = await device.backup(scratchFolder())
    const tree = await openSource(folder, () => {})
    let opened = 0
    const open = tree.open.bind(tree)
    tree.open = (entry) => {
      opened++
      return open(entry)
    }
    const { newContents } = await makeCopy(tree, place, NOBODY)
    expect(opened).toBeLessThan(20)
    expect(newContents).toBeLessThanOrEqual(opened)
    rmSync((await copiesIn(place)).copies.at(-1)?.folder ?? '', { recursive: true })
    opened = 0
    expect((await makeCopy(tree, place, { ...NOBODY, thorough: true })).newContents).toBe(0)
    expect(opened).toBe(device.files.size)
    await tree.close()
  })

  it('of a state that was copied are not made twice', async () => {
    const place = join(scratchFolder(), 'place')
    const { folder } = demoBackup(inject('demoFolder'))
    const first = await copyOf(folder, place)
    expect(await copyOf(folder, place)).toEqual({ copy: first.copy, made: false, newContents: 0, newBytes: 0 })
    expect(readdirSync(join(place, 'content')).filter((name) => name.startsWith('.'))).toEqual([])
  })

  it('show as a source what theirs showed', async () => {
    for (const which of ['plain', 'encrypted'] as const) {
      const { folder } = demoBackup(inject('demoFolder'), which)
      const source = await openSource(folder, () => {}, { password: DEMO_PASSWORD })
      const { copy } = await makeCopy(source, join(scratchFolder(), 'place'), NOBODY)
      const copied = await openSource(copy.folder, () => {})
      expect(copied.info).toMatchObject({
        uniqueId: source.info.uniqueId,
        takenAt: source.info.takenAt,
        encrypted: false,
      })
      for (const category of ['photos', 'messages', 'notes', 'calls'] as const)
        for (const pass of ['live', 'residue'] as const) {
          const step = { category, pass }
          const [theirs, ours] = [
            await all(readStep(source, step, () => {})),
            await all(readStep(copied, step, () => {})),
          ]
          expect(ours, `${which} ${category} ${pass}`).toEqual(theirs)
        }
      await Promise.all([source.close(), copied.close()])
    }
  })

  it('lose nothing of those that were whole when one is stopped at any moment, and go on', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    const first = await copyOf(await device.backup(scratchFolder()), place)
    for (let moment = 1; moment < 130; moment += 9) {
      device.live()
      const folder = await device.backup(scratchFolder())
      const stop = new AbortController()
      const progress = (done: number) => {
        if (done >= moment) stop.abort(new Error('the cable was pulled'))
      }
      await expect(copyOf(folder, place, { signal: stop.signal, progress })).rejects.toThrow('pulled')
      const checker = new CopyChecker()
      for (const copy of (await copiesIn(place)).copies) expect((await checker.check(copy.folder)).problems).toEqual([])
      expect((await copyOf(folder, place)).made).toBe(true)
    }
    expect((await new CopyChecker().check(first.copy.folder)).problems).toEqual([])
  })

  it('are found out when a byte of them is wrong, or a content is gone', async () => {
    const place = join(scratchFolder(), 'place')
    const { copy } = await copyOf(demoBackup(inject('demoFolder')).folder, place)
    const contents = readFileSync(join(copy.folder, 'manifest-sha256.txt'), 'utf8').match(/^[0-9a-f]{64}/gm) ?? []
    const [changed = '', gone = ''] = contents
    const bytes = readFileSync(contentPath(place, changed))
    bytes[0] = (bytes[0] ?? 0) ^ 1
    writeFileSync(contentPath(place, changed), bytes)
    rmSync(contentPath(place, gone))
    truncateSync(join(copy.folder, 'copy.json'), statSync(join(copy.folder, 'copy.json')).size - 2)
    writeFileSync(join(copy.folder, 'copy.json'), `${readFileSync(join(copy.folder, 'copy.json'), 'utf8')}}`)
    const { problems } = await new CopyChecker().check(copy.folder)
    expect(problems.map(({ why }) => why).sort()).toEqual([
      'it is not what it was',
      'its content is missing',
      'its content is not what it was',
    ])
  })

  it('are mended by copying their state again, where a check set aside what was wrong', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    const folder = await device.backup(scratchFolder())
    const { copy } = await copyOf(folder, place)
    const sum = [...contentsIn(place)][7] as string
    const path = contentPath(place, sum)
    truncateSync(path, statSync(path).size - 1)
    // A look alone changes nothing.
    expect((await new CopyChecker().check(copy.folder)).problems).toHaveLength(1)
    expect(existsSync(path)).toBe(true)
    expect((await new CopyChecker(undefined, true).check(copy.folder)).problems).toHaveLength(1)
    expect(existsSync(path)).toBe(false)
    expect(await copyOf(folder, place)).toMatchObject({ made: false, newContents: 1 })
    expect((await new CopyChecker().check(copy.folder)).problems).toEqual([])
  })

  it('say what their source does not hold', async () => {
    const folder = join(scratchFolder(), 'backup')
    cpSync(demoBackup(inject('demoFolder')).folder, folder, { recursive: true })
    const tree = await openSource(folder, () => {})
    const picture = [...tree.entries()].find(({ path }) => path.endsWith('.JPG'))
    if (!picture) throw new Error('no picture')
    rmSync((await tree.storedPath(picture)) ?? '')
    const { list, report } = warnings()
    const { copy } = await makeCopy(tree, join(scratchFolder(), 'place'), { report })
    await tree.close()
    expect(list.filter(({ path }) => path?.endsWith(picture.path))).toHaveLength(1)
    expect(copy.missing).toBeGreaterThan(0)
    const copied = await openSource(copy.folder, () => {})
    expect(await copied.open(copied.find(picture.domain, picture.path) as never)).toBeUndefined()
    expect(copied.info.complete).toBe(false)
  })

  it('come to nothing when their source goes away amid, and are made when it is back', async () => {
    const folder = join(scratchFolder(), 'backup')
    cpSync(demoBackup(inject('demoFolder')).folder, folder, { recursive: true })
    const place = join(scratchFolder(), 'place')
    let away = false
    const progress = (done: number) => {
      if (done > 40 && !away) renameSync(folder, `${folder}-away`)
      away ||= done > 40
    }
    await expect(copyOf(folder, place, { progress })).rejects.toMatchObject({ name: 'SourceError', code: 'not-found' })
    expect((await copiesIn(place)).copies).toEqual([])
    renameSync(`${folder}-away`, folder)
    expect((await copyOf(folder, place)).copy.missing).toBe(0)
  })

  it('are not made where a disk was that is pulled amid', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    await copyOf(await device.backup(scratchFolder()), place)
    device.live()
    const progress = (done: number) => {
      if (done === 30) renameSync(place, `${place}-in-a-pocket`)
    }
    const copying = copyOf(await device.backup(scratchFolder()), place, { progress })
    await expect(copying).rejects.toThrow('went away while it was written to')
    expect(existsSync(place)).toBe(false)
  })

  it('that lack something are made again, and kept where nothing more can be had', async () => {
    const folder = join(scratchFolder(), 'backup')
    cpSync(demoBackup(inject('demoFolder')).folder, folder, { recursive: true })
    const tree = await openSource(folder, () => {})
    const picture = [...tree.entries()].find(({ path }) => path.endsWith('.JPG'))
    const path = (picture && (await tree.storedPath(picture))) ?? ''
    await tree.close()
    const place = join(scratchFolder(), 'place')
    renameSync(path, `${path}.gone`)
    const first = await copyOf(folder, place)
    expect(first.copy.missing).toBe(1)
    expect(await copyOf(folder, place)).toMatchObject({ made: false, copy: { missing: 1 } })
    renameSync(`${path}.gone`, path)
    expect(await copyOf(folder, place)).toMatchObject({ made: true, copy: { missing: 0 } })
    expect((await new CopyChecker().check(first.copy.folder)).problems).toEqual([])
  })

  it('can be removed, and what the others need stays', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    for (let week = 0; week < 6; week++) {
      device.live()
      await copyOf(await device.backup(scratchFolder()), place)
    }
    const copies = await withChanges((await copiesIn(place)).copies)
    const going = copies.filter((_, i) => i % 2 === 0)
    const before = contentsIn(place)
    const removal = await removeCopies(
      place,
      going.map(({ folder }) => folder),
    )
    expect(removal).toMatchObject({ copies: 3, swept: true })
    const stay = (await copiesIn(place)).copies
    expect(stay.map(({ folder }) => folder)).toEqual(copies.filter((_, i) => i % 2 === 1).map(({ folder }) => folder))
    const checker = new CopyChecker()
    for (const { folder } of stay) expect((await checker.check(folder)).problems).toEqual([])
    // As many as are gone, and nothing is left that no copy lists.
    const listed = new Set<string>()
    for (const { folder } of stay) for await (const line of linesOf(folder)) if (line?.sha256) listed.add(line.sha256)
    expect(contentsIn(place)).toEqual(listed)
    expect(removal.contents).toBe(before.size - listed.size)
    expect(removal.bytes).toBeGreaterThanOrEqual(going.reduce((sum, { bytesAlone }) => sum + bytesAlone, 0))
  })

  it('move to another folder with all that they are, and the old one goes only when it is asked for', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    for (let week = 0; week < 3; week++) {
      device.live()
      await copyOf(await device.backup(scratchFolder()), place)
    }
    const to = join(scratchFolder(), 'elsewhere')
    const stop = new AbortController()
    const progress = (done: number) => done > 60 && stop.abort(new Error('stopped'))
    await expect(copyPlace(place, to, { signal: stop.signal, progress })).rejects.toThrow('stopped')
    expect(await copyPlace(place, to, {})).toEqual({ copies: 3, problems: [] })
    expect(contentsIn(to)).toEqual(contentsIn(place))
    // By a general program: diffutils.
    expect(tool('diff', '-r', '--exclude=.*', place, to)).toBe('')
    // Another program makes a copy meanwhile.
    device.live()
    const { copy: late } = await copyOf(await device.backup(scratchFolder()), place)
    await expect(removePlace(place, to)).rejects.toThrow('It stays where it is')
    expect((await new CopyChecker().check(late.folder)).problems).toEqual([])
    await removeCopies(place, [late.folder])
    await removePlace(place, to)
    expect(existsSync(place)).toBe(false)
    for (const { folder } of (await copiesIn(to)).copies)
      expect((await new CopyChecker().check(folder)).problems).toEqual([])
    await removePlace(place, to)
  })

  it('tell what is not right where they are moved to, and refuse to go into themselves or over others', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    const { copy } = await copyOf(await device.backup(scratchFolder()), place)
    await expect(copyPlace(place, join(place, 'inside'), {})).rejects.toThrow('into itself')
    const [sum = ''] = contentsIn(place)
    truncateSync(contentPath(place, sum), 3)
    const to = join(scratchFolder(), 'elsewhere')
    const { problems } = await copyPlace(place, to, {})
    expect(problems.map(({ why }) => why)).toEqual(['its content is missing'])
    const other = join(to, 'copies', ...copy.folder.split('/').slice(-2))
    writeFileSync(join(other, 'tagmanifest-sha256.txt'), 'of another')
    await expect(copyPlace(place, to, {})).rejects.toThrow('Another copy of that state')
  })

  it('are compared file by file, any two of them', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    const states: Map<string, Buffer>[] = []
    for (let week = 0; week < 4; week++) {
      device.live()
      states.push(new Map([...device.files].map(([path, { content }]) => [path, content])))
      await copyOf(await device.backup(scratchFolder()), place)
    }
    const { copies } = await copiesIn(place)
    for (const [from, to] of [
      [0, 3],
      [3, 1],
      [2, 2],
    ] as const) {
      const [before, after] = [states[from], states[to]] as [Map<string, Buffer>, Map<string, Buffer>]
      const told = { added: new Set<string>(), changed: new Set<string>(), gone: new Set<string>() }
      for await (const { change, path } of differentFiles(copies[from] as SafeCopy, copies[to] as SafeCopy))
        told[change].add(path)
      const paths = (all: Map<string, Buffer>, fits: (path: string, content: Buffer) => boolean) =>
        new Set([...all].filter(([path, content]) => fits(path, content)).map(([path]) => path))
      expect(told).toEqual({
        added: paths(after, (path) => !before.has(path)),
        changed: paths(after, (path, content) => before.has(path) && !before.get(path)?.equals(content)),
        gone: paths(before, (path) => !after.has(path)),
      })
    }
  })

  it('go whole when a removal was broken off, with the next one', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    const { copy } = await copyOf(await device.backup(scratchFolder()), place)
    device.live()
    await copyOf(await device.backup(scratchFolder()), place)
    const alone = (await withChanges((await copiesIn(place)).copies))[0]?.bytesAlone
    // It had taken the name away, and nothing more.
    renameSync(copy.folder, join(copy.folder, '..', '.removed-some-time'))
    expect((await copiesIn(place)).copies).toHaveLength(1)
    expect(await removeCopies(place, [])).toMatchObject({ copies: 0, bytes: alone, swept: true })
    for (const { folder } of (await copiesIn(place)).copies)
      expect((await new CopyChecker().check(folder)).problems).toEqual([])
  })

  it('keep all contents where it cannot be told what one of them needs', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    const folders: string[] = []
    for (let week = 0; week < 3; week++) {
      device.live()
      folders.push((await copyOf(await device.backup(scratchFolder()), place)).copy.folder)
    }
    writeFileSync(join(folders[1] as string, 'copy.json'), '{')
    const before = contentsIn(place)
    expect(await removeCopies(place, [folders[0] as string])).toEqual({
      copies: 1,
      contents: 0,
      bytes: 0,
      swept: false,
    })
    expect(contentsIn(place)).toEqual(before)
  })

  it('are written by one at a time; who was killed holds up nobody', async () => {
    const place = join(scratchFolder(), 'place')
    const device = new LivedDevice()
    device.live()
    await copyOf(await device.backup(scratchFolder()), place)
    device.live()
    const next = await device.backup(scratchFolder())
    const lock = join(place, '.writing')
    writeFileSync(lock, `${hostname()} ${process.pid}\n`)
    await expect(copyOf(next, place)).rejects.toThrow('Another program writes')
    await expect(removeCopies(place, [])).rejects.toThrow('Another program writes')
    const { pid } = spawnSync(process.execPath, ['-e', ''])
    writeFileSync(lock, `${hostname()} ${pid}\n`)
    expect((await copyOf(next, place)).made).toBe(true)
    expect(existsSync(lock)).toBe(false)
    // It was killed before it had said who it is.
    writeFileSync(lock, '')
    expect(await removeCopies(place, [])).toMatchObject({ copies: 0 })
  })

  it('go into no folder that holds something else, nor where nobody may write', async () => {
    const other = scratchFolder()
    writeFileSync(join(other, 'mine.txt'), 'mine')
    const { folder } = demoBackup(inject('demoFolder'))
    await expect(copyOf(folder, other)).rejects.toMatchObject({ name: 'SourceError' })
    expect(readdirSync(other)).toEqual(['mine.txt'])
    const closed = scratchFolder()
    chmodSync(closed, 0o500)
    if (process.getuid?.() !== 0) await expect(copyOf(folder, closed)).rejects.toMatchObject({ name: 'SourceError' })
    await expect(copiesIn(other)).rejects.toMatchObject({ code: 'not-found' })
  })
})

describe('lumbrin copy, copies, check', () => {
  const lumbrin = (...words: string[]) => {
    const { status, stdout } = spawnSync(process.execPath, [join(inject('programs'), 'cli/lumbrin.mjs'), ...words], {
      encoding: 'utf8',
    })
    return {
      status,
      lines: stdout
        .split('\n')
        .filter(Boolean)
        .map((line) => JSON.parse(line)),
    }
  }

  it('make, list and check copies', async () => {
    const place = join(scratchFolder(), 'place')
    const { folder } = demoBackup(inject('demoFolder'))
    const made = lumbrin('copy', folder, '--to', place)
    expect(made.status).toBe(0)
    expect(made.lines[0]).toMatchObject({ made: true, missing: 0 })
    expect(lumbrin('copies', place).lines).toMatchObject([{ files: made.lines[0].files, gone: 0 }])
    expect(lumbrin('check', place)).toMatchObject({ status: 0, lines: [{ problems: [] }] })
    writeFileSync(join(made.lines[0].folder, 'files.jsonl'), '{"half')
    expect(lumbrin('check', made.lines[0].folder).status).toBe(1)
    expect(lumbrin('copy', folder).status).toBe(2)
  })
})
