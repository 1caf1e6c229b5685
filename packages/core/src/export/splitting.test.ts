import { appendFileSync, cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { picture, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { checkPackage } from './bag-check.js'
import { copyPackage } from './bag-copy.js'
import { planParts, startsOf } from './bag-parts.js'
import type { HandoverItem } from './format.js'
import { type PackageOptions, writePackage } from './package.js'

const SUBJECT = { jobNumber: 'A-1', jobUid: 'uid-1', owner: 'Odile', device: null, sought: null }
const PICTURE_BYTES = 40_000

async function* pictures(count: number, from = 1): AsyncGenerator<HandoverItem> {
  for (let n = from; n < from + count; n++)
    yield {
      sighting: picture(n),
      standing: 'kept',
      open: async () => new MemorySource(Buffer.alloc(PICTURE_BYTES, `picture ${n} `)),
      reveal: async () => undefined,
    }
}

const write = (to: string, count: number, options: Partial<PackageOptions> = {}) =>
  writePackage(pictures(count), { to, subject: SUBJECT, ...options })

const verified = (folder: string) =>
  tool('sh', '-c', `cd '${folder}' && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt`)

describe('a package in parts', () => {
  it('has parts that fit, are bags of their own, and are the whole when laid together', async () => {
    const to = join(scratchFolder(), 'package')
    const partBytes = 400_000
    const { files } = await write(to, 30, { partBytes })
    const parts = readdirSync(to).sort()
    expect(parts.length).toBeGreaterThan(3)
    expect(parts[0]).toBe(`part 1 of ${parts.length}`)
    for (const [i, part] of parts.entries()) {
      expect(verified(join(to, part))).toBe('')
      expect(readFileSync(join(to, part, 'bag-info.txt'), 'utf8')).toContain(`Bag-Count: ${i + 1} of ${parts.length}`)
      const all = readdirSync(join(to, part), { recursive: true, withFileTypes: true })
      const bytes = all.reduce(
        (sum, one) => sum + (one.isFile() ? statSync(join(one.parentPath, one.name)).size : 0),
        0,
      )
      expect(bytes).toBeLessThanOrEqual(partBytes)
    }
    // What it is looked at by lies in the first; together they are one package, by the list that each holds.
    expect(existsSync(join(to, parts[0] ?? '', 'data/report.html'))).toBe(true)
    expect(existsSync(join(to, parts[0] ?? '', 'receipt.pdf'))).toBe(true)
    const whole = join(scratchFolder(), 'whole')
    mkdirSync(whole)
    for (const part of parts) cpSync(join(to, part), whole, { recursive: true })
    tool('sh', '-c', `cd '${whole}' && sha256sum --strict --quiet -c manifest-of-all-parts.txt`)
    expect(readFileSync(join(whole, 'manifest-of-all-parts.txt'), 'utf8').trim().split('\n').length).toBe(files)
    const words = tool('pdftotext', '-layout', join(whole, 'receipt.pdf'), '-').replace(/\s+/g, '')
    expect(words).toContain(tool('sha256sum', join(whole, 'manifest-of-all-parts.txt')).split(' ')[0])
  })

  it('is checked as one: a part that is gone, and a file that was changed, are named', async () => {
    const to = join(scratchFolder(), 'package')
    await write(to, 20, { partBytes: 300_000 })
    const clean = await checkPackage(to)
    expect(clean).toMatchObject({ altered: [], missing: [], unlisted: [] })
    const parts = readdirSync(to).sort()
    const last = parts.at(-1) ?? ''
    rmSync(join(to, last), { recursive: true })
    appendFileSync(join(to, parts[0] ?? '', 'data/index.csv'), ' ')
    expect(await checkPackage(to)).toMatchObject({ altered: [`${parts[0]}/data/index.csv`], missing: [last] })
  })

  it('is known again by the handover that wrote it, and taken for no place of another one', async () => {
    const to = join(scratchFolder(), 'package')
    const first = await write(to, 20, { partBytes: 300_000, id: 'handover 1' })
    const again = await write(to, 20, { partBytes: 300_000, id: 'handover 1' })
    expect([again.items, again.files]).toEqual([first.items, first.files])
    await expect(write(to, 20, { id: 'handover 2' })).rejects.toThrow('holds a package in parts')
  })

  it('is one where all of it fits, and leaves a file that is too large whole', async () => {
    const to = join(scratchFolder(), 'package')
    await write(to, 3, { partBytes: 10_000_000 })
    expect(existsSync(join(to, 'bagit.txt'))).toBe(true)
    const file = (path: string, bytes: number) => ({ path: `data/${path}`, bytes, sha256: '' })
    const plan = planParts(
      [file('a/1', 50_000), file('index.csv', 10_000), file('a/2', 500_000), file('a/3', 40_000)],
      230_000,
    )
    expect(plan.map((part) => part.map(({ path }) => path))).toEqual([
      ['data/index.csv', 'data/a/1'],
      ['data/a/2'],
      ['data/a/3'],
    ])
  })
})

describe('the parts of a package', () => {
  const file = (path: string, bytes = 50_000) => ({ path: `data/${path}`, bytes, sha256: '' })

  it('hold content in the order of its paths, so that where each begins tells in which one a file lies', () => {
    const plan = planParts(
      ['photos/b', 'notes/z', 'photos/ä', 'site/items-0.js', 'photos/B', 'index.csv', 'calls/a'].map((path) =>
        file(path),
      ),
      230_000,
    )
    expect(plan.map((part) => part.map(({ path }) => path.slice('data/'.length)))).toEqual([
      ['site/items-0.js', 'index.csv'],
      ['calls/a', 'notes/z'],
      ['photos/B', 'photos/b'],
      ['photos/ä'],
    ])
    expect(startsOf(plan)).toEqual([null, 'data/calls/a', 'data/photos/B', 'data/photos/ä'])
  })

  it('tell at their tops where what shows all of them lies, and how they are laid together', async () => {
    const to = join(scratchFolder(), 'package')
    const subject = { ...SUBJECT, owner: '<b>Odile</b>' }
    await write(to, 20, { partBytes: 300_000, subject, site: { program: { script: '', style: '', fonts: [] } } })
    const parts = readdirSync(to).sort()
    const pages = parts.flatMap((part) => readdirSync(join(to, part)).filter((name) => name.endsWith('.html')))
    expect(pages).toEqual(['index.html', ...parts.slice(1).map((part) => `${part}.html`)])
    const second = readFileSync(join(to, parts[1] ?? '', `${parts[1]}.html`), 'utf8')
    expect(second).toContain(`open <code>index.html</code> in the folder <code>${parts[0]}</code>`)
    expect(second).not.toContain('<b>Odile</b>')
    // The first page knows where each part begins: with the file that comes first there.
    const first = readFileSync(join(to, parts[0] ?? '', 'index.html'), 'utf8')
    const starts = JSON.parse((/data-parts="([^"]*)"/.exec(first)?.[1] ?? '').replaceAll('&#34;', '"'))
    const firstOf = (part: string) =>
      readdirSync(join(to, part, 'data'), { recursive: true, withFileTypes: true })
        .filter((one) => one.isFile())
        .map((one) => join(one.parentPath, one.name).slice(join(to, part).length + 1))
        .sort()[0]
    expect(starts.slice(1)).toEqual(parts.slice(1).map(firstOf))
    expect(await checkPackage(to)).toMatchObject({ altered: [], missing: [], unlisted: [] })
  })
})

describe('a second copy', () => {
  it('is the same, and later takes only what is new', async () => {
    const folder = scratchFolder()
    const [to, second] = [join(folder, 'package'), join(folder, 'stick/package')]
    mkdirSync(join(folder, 'stick'))
    await write(to, 5)
    await copyPackage(to, second, { group: 'uid-1' })
    expect(tool('diff', '-r', to, second)).toBe('')
    const kept = statSync(join(second, 'data/photos/2026/05/IMG_1.JPG')).ino
    await write(to, 8)
    await copyPackage(to, second, { group: 'uid-1' })
    expect(tool('diff', '-r', to, second)).toBe('')
    expect(verified(second)).toBe('')
    expect(statSync(join(second, 'data/photos/2026/05/IMG_1.JPG')).ino).toBe(kept)
    expect(readdirSync(join(folder, 'stick'))).toEqual(['package'])
  })

  it('is not put over anything else, and leaves nothing when it is stopped', async () => {
    const folder = scratchFolder()
    const to = join(folder, 'package')
    await write(to, 5)
    mkdirSync(join(folder, 'other/inside'), { recursive: true })
    await expect(copyPackage(to, join(folder, 'other'), { group: 'uid-1' })).rejects.toThrow('is not empty')
    // Another handover of the same job, with other items.
    const another = join(folder, 'another')
    await writePackage(pictures(2, 8), { to: another, subject: SUBJECT })
    await expect(copyPackage(to, another, { group: 'uid-1' })).rejects.toThrow('another package of this job')
    expect(verified(another)).toBe('')
    rmSync(another, { recursive: true })
    await expect(copyPackage(to, to, { group: 'uid-1' })).rejects.toThrow('is the first one')
    const stop = new AbortController()
    stop.abort(new Error('stopped'))
    await expect(copyPackage(to, join(folder, 'copy'), { group: 'uid-1', signal: stop.signal })).rejects.toThrow(
      'stopped',
    )
    expect(readdirSync(folder).sort()).toEqual(['other', 'package'])
  })
})
