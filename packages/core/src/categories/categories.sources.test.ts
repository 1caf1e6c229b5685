import { cp, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { DEMO_PASSWORD } from '@lumbrin/standins/demo/build'
import { describe, expect, inject, it } from 'vitest'
import { z } from 'zod'
import { all, demoBackup, scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { fileIdOf } from '../backup/manifest-values.js'
import { openBackup, unlockBackup } from '../backup/open.js'
import type { Report } from '../io/errors.js'
import { daysLeft } from './bin.js'
import { attributedBodyText } from './messages/body.js'
import { storesOf } from './places.js'
import { planRead, readStep, withHashes } from './read.js'
import { CATEGORY_IDS, type CategoryId } from './registry.js'
import { CATEGORIES } from './table.js'
import { PASSES, type Pass, type Sighting } from './types.js'

async function sightings(
  folder: string,
  category: CategoryId,
  pass: Pass,
  report: Report = () => {},
): Promise<Sighting[]> {
  const tree = await openBackup(folder, report)
  return all(readStep(tree, { category, pass }, report))
}

describe('messages', () => {
  it('gives every live and binned message as it was written, and nothing else', async () => {
    const { folder, truth } = demoBackup(inject('demoFolder'))
    const seen = await sightings(folder, 'messages', 'live')
    const written = new Map(
      truth.messages.filter((message) => message.fate !== 'deleted').map((message) => [message.guid, message]),
    )
    expect(seen.length).toBe(written.size)
    for (const { fields, text, when, condition, origin } of seen) {
      const message = written.get(String(fields.guid))
      expect({ text, when, condition, rowid: origin.rowid }).toEqual({
        text: message?.text,
        when: message?.at,
        condition: message?.fate,
        rowid: message?.rowid,
      })
      expect(fields.conversation).toBe(message?.chat)
      expect(fields.direction).toBe(message?.fromMe ? 'out' : 'in')
      if (message?.fromMe) expect(fields.recipients).not.toEqual([])
      else expect(fields.sender).toBe(message?.address)
    }
  })

  it('rebuilds deleted messages with every value right, and invents none', async () => {
    const { folder, truth } = demoBackup(inject('demoFolder'))
    const deleted = new Map(
      truth.messages.filter((message) => message.fate === 'deleted').map((message) => [message.guid, message]),
    )
    const rebuilt = await sightings(folder, 'messages', 'residue')
    expect(rebuilt.filter((one) => one.condition === 'rebuilt').length).toBeGreaterThan(deleted.size * 0.6)
    expect(new Set(rebuilt.map((one) => one.fields.guid)).size).toBe(rebuilt.length)
    for (const { fields, text, when, condition, origin } of rebuilt) {
      const message = deleted.get(String(fields.guid))
      // What is missing is absent, and never something else.
      if (condition === 'partial') expect([null, message?.text]).toContain(text)
      else expect({ text, when, condition }).toEqual({ text: message?.text, when: message?.at, condition: 'rebuilt' })
      expect(origin.place).not.toBe('live')
    }
  })

  it('shows reactions on their message and not as messages', async () => {
    const seen = await sightings(demoBackup(inject('demoFolder')).folder, 'messages', 'live')
    const reactions = seen.flatMap((one) => one.fields.reactions as { kind: string }[])
    expect(reactions.length).toBeGreaterThan(3)
    expect(
      reactions.every((reaction) =>
        ['love', 'like', 'dislike', 'laugh', 'emphasise', 'question'].includes(reaction.kind),
      ),
    ).toBe(true)
  })

  it('names attachments with the checksum that sha256sum computes', async () => {
    const { folder } = demoBackup(inject('demoFolder'))
    const tree = await openBackup(folder, () => {})
    const withFile = (await sightings(folder, 'messages', 'live')).find(
      (one) => (one.fields.attachments as unknown[]).length > 0,
    )
    if (!withFile) throw new Error('the demo has attachments')
    const [attachment] = (await withHashes(tree, withFile, () => {})).fields.attachments as {
      path: string
      sha256: string
      name: string
    }[]
    const id = fileIdOf('MediaDomain', String(attachment?.path))
    expect(attachment?.sha256).toBe(tool('sha256sum', join(folder, id.slice(0, 2), id)).slice(0, 64))
    expect(attachment?.name).toMatch(/^IMG_9\d+\.JPG$/)
  })

  // The sample of the reference, computed there.
  it('reads the text of an archived attributed body', () => {
    const hex =
      '040b73747265616d747970656481e803840140848484124e5341747472696275746564537472696e67008484084e534f626a656374008592848484084e53537472696e67019484012b0548656c6c6f86'
    expect(attributedBodyText(Buffer.from(hex, 'hex'))).toBe('Hello')
    const long = Buffer.concat([
      Buffer.from(hex, 'hex').subarray(0, 72),
      Buffer.from([0x84, 0x01, 0x2b, 0x81, 0x2c, 0x01]),
      Buffer.from('x'.repeat(300)),
    ])
    expect(attributedBodyText(long)).toBe('x'.repeat(300))
    expect(attributedBodyText(long.subarray(0, 200))).toBeNull()
  })
})

describe('photos', () => {
  it('gives every library picture with its dates, albums, place and bin', async () => {
    const { folder, truth } = demoBackup(inject('demoFolder'))
    const seen = await sightings(folder, 'photos', 'live')
    const written = new Map(
      truth.pictures.filter((picture) => picture.fate !== 'deleted').map((picture) => [picture.uuid, picture]),
    )
    expect(seen.length).toBe(written.size)
    for (const { fields, condition, when, content } of seen) {
      const picture = written.get(String(fields.uuid))
      expect({ when, condition, name: fields.fileName, albums: fields.albums }).toEqual({
        when: picture?.takenAt,
        condition: picture?.fate,
        name: picture?.name,
        albums: picture?.album ? [picture.album] : [],
      })
      expect(fields.latitude).toEqual(picture?.place ? picture.place[0] : null)
      expect(fields.daysLeft === null).toBe(condition === 'live')
      expect(content?.mime).toBe(content?.name.endsWith('.HEIC') ? 'image/heic' : 'image/jpeg')
    }
  })

  it('shows camera files that the library has no row for, dated by their EXIF', async () => {
    const folder = join(scratchFolder(), 'copy')
    const { folder: demo, truth } = demoBackup(inject('demoFolder'))
    await cp(demo, folder, { recursive: true })
    const library = fileIdOf('CameraRollDomain', 'Media/PhotoData/Photos.sqlite')
    await rm(join(folder, library.slice(0, 2), library))
    const warned = warnings()
    const seen = await sightings(folder, 'photos', 'live', warned.report)
    expect(warned.list.map((warning) => warning.code)).toEqual(['content-missing'])
    expect(seen.length).toBe(truth.pictures.filter((picture) => picture.fate !== 'deleted').length)
    for (const one of seen) expect(one.when).toBe(truth.pictures.find((picture) => picture.name === one.title)?.takenAt)
  })

  it.each([
    ['2026-11-14T00:00:00Z', 30],
    ['2026-11-13T23:00:00Z', 30],
    ['2026-10-16T00:00:00Z', 1],
    ['2026-09-01T00:00:00Z', 0],
  ])('binned at %s leaves %i days', (binnedAt, days) => {
    expect(daysLeft(new Date(binnedAt), new Date('2026-11-14T00:00:00Z'))).toBe(days)
  })
})

// Saved passwords are in backups with a password only, and have tests of their own.
const WITH_STORES = CATEGORY_IDS.filter((id) => CATEGORIES[id].stores.length > 0 && id !== 'credentials')

describe('every category', () => {
  it.each(WITH_STORES)('%s survives a store that is missing, empty or no database', async (category) => {
    const folder = join(scratchFolder(), 'copy')
    await cp(demoBackup(inject('demoFolder')).folder, folder, { recursive: true })
    const tree = await openBackup(folder, () => {})
    const store = storesOf(tree, CATEGORIES[category].stores)[0]?.id
    if (!store) throw new Error(`the demo has no store of ${category}`)
    const file = join(folder, store.slice(0, 2), store)
    const whole = await readFile(file)
    for (const bytes of [
      Buffer.alloc(0),
      Buffer.from('nothing like a database'),
      whole.subarray(0, 100),
      whole.subarray(0, whole.length >> 1),
    ]) {
      await writeFile(file, bytes)
      const warned = warnings()
      for (const pass of PASSES) await sightings(folder, category, pass, warned.report)
      expect(warned.list.length).toBeGreaterThan(0)
    }
  })

  it.each(CATEGORY_IDS)(
    '%s always comes in the same order, with identities that tell items apart',
    async (category) => {
      const { folder } = demoBackup(inject('demoFolder'))
      const first = await sightings(folder, category, 'live')
      expect(await sightings(folder, category, 'live')).toEqual(first)
      expect(new Set(first.map(CATEGORIES[category].identity)).size).toBe(first.length)
    },
  )

  it.each(CATEGORY_IDS)('%s has the fields that it defines, and no others', async (id) => {
    for (const which of ['plain', 'encrypted', 'legacy'] as const) {
      const { folder } = demoBackup(inject('demoFolder'), which)
      const keys = which === 'encrypted' ? await unlockBackup(folder, { password: DEMO_PASSWORD }, () => {}) : undefined
      const tree = await openBackup(folder, () => {}, keys ? { keys } : {})
      for (const pass of PASSES)
        for await (const { fields } of readStep(tree, { category: id, pass }, () => {})) {
          const { error } = CATEGORIES[id].fields.safeParse(fields)
          expect(error && z.prettifyError(error), JSON.stringify(fields)).toBeUndefined()
        }
      await tree.close()
    }
  })

  it('has a docs line, a line for each field, and an export', async () => {
    const docs = await readFile(new URL('../../../../docs/categories.md', import.meta.url), 'utf8')
    for (const category of Object.values(CATEGORIES)) {
      expect(docs).toContain(`## ${category.label}`)
      for (const name of Object.keys(category.fields.shape))
        expect(docs, category.label).toMatch(new RegExp(`\\b${name}\\b`))
      expect(category.formats.length).toBeGreaterThan(0)
    }
  })

  it('is read live first', () => {
    expect(
      planRead(['photos', 'messages'], ['residue', 'live']).map((step) => `${step.category} ${step.pass}`),
    ).toEqual(['photos live', 'messages live', 'photos residue', 'messages residue'])
  })
})
