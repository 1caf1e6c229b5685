import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { runInNewContext } from 'node:vm'
import sharp from 'sharp'
import { beforeAll, describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder, tool } from '../../../../../tests/setup/fixtures.js'
import { openBackup } from '../../backup/open.js'
import { readStep } from '../../categories/read.js'
import type { CategoryId } from '../../categories/registry.js'
import { PASSES } from '../../categories/types.js'
import type { HandoverItem } from '../format.js'
import { fromTree } from '../from-tree.js'
import { writePackage } from '../package.js'
import type { PackagedItem } from '../packaged.js'
import {
  ITEMS_A_PART,
  type SiteConversation,
  type SiteDays,
  type SiteItem,
  type SitePerson,
  type SitePlace,
  type SiteStart,
  type SiteWords,
} from './shapes.js'
import { wordsOf } from './words.js'

const CATEGORIES: CategoryId[] = ['photos', 'messages', 'message-attachments', 'notes', 'contacts', 'events', 'places']
const SUBJECT = { jobNumber: '1', owner: 'Ines', device: null, sought: null, timeZone: 'Europe/Lisbon' }
const PREVIEW = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#284' } })
  .jpeg()
  .toBuffer()

async function itemsOf(categories: readonly CategoryId[]): Promise<HandoverItem[]> {
  const tree = await openBackup(demoBackup(inject('demoFolder')).folder, () => {})
  const items: HandoverItem[] = []
  for (const category of categories)
    for (const pass of PASSES.slice(0, 2)) {
      const found = await all(readStep(tree, { category, pass }, () => {}))
      found.sort((a, b) => String(a.fields.conversation).localeCompare(String(b.fields.conversation)))
      for (const sighting of found)
        items.push({ sighting, standing: pass === 'live' ? 'kept' : 'rebuilt', ...fromTree(tree) })
    }
  return items.sort((a, b) => a.sighting.category.localeCompare(b.sighting.category))
}

async function* given(items: readonly HandoverItem[]) {
  yield* items
}

/** The parts of a package's pages, as a browser would be given them. */
function partsIn(folder: string): Map<string, unknown> {
  const parts = new Map<string, unknown>()
  const lumbrinPart = (name: string, value: unknown) => parts.set(name, JSON.parse(JSON.stringify(value)))
  for (const file of readdirSync(join(folder, 'data/site')).filter(
    (name) => name.endsWith('.js') && name !== 'site.js',
  ))
    runInNewContext(readFileSync(join(folder, 'data/site', file), 'utf8'), { lumbrinPart })
  return parts
}

function siteIn(folder: string) {
  const parts = partsIn(folder)
  const part = <Of>(name: string) => parts.get(name) as Of
  const numbered = (name: string) =>
    [...parts.keys()].filter((one) => new RegExp(`^${name}-\\d+$`).test(one)).map((_, i) => `${name}-${i}`)
  return {
    start: part<SiteStart>('start'),
    items: numbered('items').flatMap((name) => part<SiteItem[]>(name)),
    partSizes: numbered('items').map((name) => part<SiteItem[]>(name).length),
    conversations: part<SiteConversation[]>('conversations'),
    people: part<SitePerson[]>('people'),
    numbersOf: ({ part: n, at }: SitePerson) => part<number[][]>(`people-${n}`)[at] ?? [],
    places: part<SitePlace[]>('places'),
    days: (kind: string) => part<SiteDays>(`days-${kind}`),
    words: numbered('words').map((name) => part<SiteWords>(name)),
  }
}

const indexIn = (folder: string): PackagedItem[] =>
  readFileSync(join(folder, 'data/index.jsonl'), 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))

const program = { script: '// pages', style: '', fonts: [] }
const preview = async (path: string) => (readFileSync(path).length > 0 ? PREVIEW : undefined)

describe('pages of a package', () => {
  let folder: string
  let site: ReturnType<typeof siteIn>
  let index: PackagedItem[]

  beforeAll(async () => {
    const scratch = mkdtempSync(join(tmpdir(), 'lumbrin-site-'))
    folder = join(scratch, 'package')
    await writePackage(given(await itemsOf(CATEGORIES)), {
      to: folder,
      subject: SUBJECT,
      formats: { photos: ['original'] },
      site: { program, preview },
    })
    site = siteIn(folder)
    index = indexIn(folder)
    return () => rmSync(scratch, { recursive: true, force: true })
  })

  it('hold every item of the index once, kind by kind, in parts of one size', () => {
    expect(site.items.length).toBe(index.length)
    const count = (list: readonly { standing: string }[], kindOf: (one: never) => string) => {
      const counts: Record<string, number> = {}
      for (const one of list) {
        const key = `${kindOf(one as never)} ${one.standing}`
        counts[key] = (counts[key] ?? 0) + 1
      }
      return counts
    }
    expect(count(site.items, ({ kind }: SiteItem) => kind)).toEqual(
      count(index, ({ category }: PackagedItem) => category),
    )
    for (const size of site.partSizes.slice(0, -1)) expect(size).toBe(ITEMS_A_PART)
    let at = 0
    for (const kind of site.start.kinds) {
      expect(kind.from).toBe(at)
      at = kind.to
      const own = site.items.slice(kind.from, kind.to)
      expect(new Set(own.map((item) => item.kind))).toEqual(new Set([kind.id]))
      expect(kind.lost).toBe(own.filter(({ standing }) => standing === 'rebuilt').length)
    }
    expect(at).toBe(site.items.length)
  })

  it('give each conversation in the order of its times, and all else the newest first, day by day', () => {
    for (const { from, to } of site.conversations) {
      const times = site.items.slice(from, to).flatMap(({ when }) => when ?? [])
      expect(times).toEqual([...times].sort())
    }
    const messages = site.start.kinds.find(({ id }) => id === 'messages')
    const covered = site.conversations.reduce((sum, { from, to }) => sum + to - from, 0)
    expect(covered).toBe((messages?.to ?? 0) - (messages?.from ?? 0))
    for (const kind of site.start.kinds.filter(({ layout }) => layout !== 'conversations')) {
      const days = site.days(kind.id)
      for (const [i, [day, from]] of days.entries())
        for (const item of site.items.slice(from, days[i + 1]?.[1] ?? kind.to))
          expect(item.when?.slice(0, 10) ?? '').toBe(day)
      const dated = days.map(([day]) => day).filter(Boolean)
      expect(dated).toEqual([...new Set(dated)].sort().reverse())
    }
  })

  it('have an index of words that finds what a look at every text finds', () => {
    const words = new Map(site.words.flat())
    expect(site.start.words).toEqual(site.words.map((part) => part[0]?.[0]))
    expect([...words.keys()]).toEqual([...words.keys()].sort())
    const numbersOf = (word: string) => {
      let number = 0
      return (words.get(word) ?? []).map((distance) => (number += distance))
    }
    const texts = site.items.map(({ title, text }) => wordsOf(`${title}\n${text ?? ''}`))
    for (const word of ['tent', 'vorhang', 'rehearsal', 'quay', 'sorry'])
      expect(numbersOf(word)).toEqual(expect.arrayContaining(texts.flatMap((own, i) => (own.has(word) ? i : []))))
    expect(numbersOf('sorry').length).toBeGreaterThan(0)
    expect(numbersOf('notthere')).toEqual([])
  })

  it('name everybody with what is theirs, and where pictures were taken', () => {
    const named = site.people.reduce((sum, person) => sum + site.numbersOf(person).length, 0)
    expect(named).toBe(site.items.filter(({ person }) => person).length)
    for (const person of site.people) {
      const numbers = site.numbersOf(person)
      expect(numbers.length).toBe(person.count)
      for (const number of numbers) expect(site.items[number]?.person).toBe(person.name)
    }
    expect(site.people.some(({ addresses }) => addresses.some((one) => one.startsWith('+1202555')))).toBe(true)
    for (const [number, longitude, latitude, lost] of site.places) {
      expect(site.items[number]?.place).toEqual([longitude, latitude])
      expect(lost).toBe(site.items[number]?.standing === 'kept' ? 0 : 1)
    }
    expect(site.places.length).toBeGreaterThan(20)
  })

  it('lead to files that lie in the package, and to small pictures of them', () => {
    const manifest = new Set(
      readFileSync(join(folder, 'manifest-sha256.txt'), 'utf8')
        .trim()
        .split('\n')
        .map((line) => line.slice(66)),
    )
    const photos = site.items.filter(({ kind }) => kind === 'photos')
    const places = site.items.flatMap(({ file, large, more = [], message }) =>
      [file, ...(message?.files ?? [])].flatMap((one) => [one?.place, one?.preview]).concat(large, more),
    )
    for (const place of places) if (place) expect(manifest.has(place), place).toBe(true)
    const shown = photos.filter(({ file }) => file?.place)
    expect(shown.length).toBeGreaterThan(20)
    for (const { file, large } of shown) {
      expect(file?.preview).toBeDefined()
      // What browsers do not show as it is has a picture that they do.
      expect(large !== undefined).toBe(/heic$/i.test(file?.place ?? ''))
    }
    const attached = site.items.flatMap(({ message }) => message?.files ?? []).filter(({ place }) => place !== null)
    expect(attached.length).toBeGreaterThan(10)
  })

  it('have pages without scripts that name every item and every file of pictures', () => {
    const plain = readdirSync(join(folder, 'data/site/plain')).map((name) =>
      readFileSync(join(folder, 'data/site/plain', name), 'utf8'),
    )
    const start = readFileSync(join(folder, 'index.html'), 'utf8')
    for (const { plain: page, label } of site.start.kinds) {
      expect(start).toContain(page)
      expect(start).toContain(label)
    }
    const all = plain.join('')
    expect(all.match(/<figure>/g)?.length).toBe(
      site.start.kinds.filter(({ layout }) => layout === 'gallery').reduce((sum, { from, to }) => sum + to - from, 0),
    )
    expect(all.match(/<article>/g)?.length).toBe(
      site.start.kinds.filter(({ layout }) => layout === 'list').reduce((sum, { from, to }) => sum + to - from, 0),
    )
    expect(all.match(/data\/messages|\/messages\//g)?.length).toBeGreaterThanOrEqual(site.conversations.length)
  })

  it('belong to the bag: every file is listed, and the page at its top among what is signed', () => {
    expect(
      tool('sh', '-c', `cd '${folder}' && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt`),
    ).toBe('')
    expect(readFileSync(join(folder, 'tagmanifest-sha256.txt'), 'utf8')).toMatch(/ index\.html$/m)
  })
})

describe('an addition to a package', () => {
  it('writes its pages anew over all that it holds then', async () => {
    const to = join(scratchFolder(), 'package')
    const items = await itemsOf(['messages', 'photos'])
    const half = items.filter((_, i) => i % 2 === 0)
    const options = { to, subject: SUBJECT, site: { program, preview } }
    await writePackage(given(half), options)
    await writePackage(given(items), options)
    const added = siteIn(to)
    expect(added.items.length).toBe(indexIn(to).length)
    const whole = join(scratchFolder(), 'package')
    await writePackage(given(items), { ...options, to: whole })
    const atOnce = siteIn(whole)
    const told = ({ title, text, when, standing }: SiteItem) => JSON.stringify([title, text, when, standing])
    const inOrder = (list: readonly SiteItem[]) => list.map(told).sort()
    expect(inOrder(added.items)).toEqual(inOrder(atOnce.items))
    expect(added.conversations.length).toBe(atOnce.conversations.length)
    expect(tool('sh', '-c', `cd '${to}' && sha256sum --strict --quiet -c manifest-sha256.txt`)).toBe('')
  })
})
