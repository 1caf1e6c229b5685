import { existsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { attachPhone, TEST_UDID } from '../../../../tests/setup/device.js'
import { demoBackup, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import type { SourceTree } from '../backup/types.js'
import { openSource } from '../collected/open.js'
import { copiesIn, type SafeCopy } from '../copies/place.js'
import { readAll } from '../io/source.js'
import { copyDevice } from './copy.js'
import { Lockdown } from './lockdown.js'
import { pair } from './pairing.js'
import type { DevicePart } from './parts.js'

const PICTURE = 'Media/DCIM/100APPLE/'

/** A phone that trusts this computer, a place for its copies, and a way to make one. */
async function phoneAndPlace() {
  const phone = await attachPhone(inject('demoFolder'))
  const [device] = await phone.mux.devices()
  if (!device) throw new Error('no device')
  const lockdown = await Lockdown.open(phone.mux, device)
  await pair(phone.mux, device, lockdown)
  lockdown.close()
  const place = scratchFolder()
  const folder = join(scratchFolder(), 'on-its-way')
  const copy = (part: DevicePart = 'media', signal?: AbortSignal) =>
    copyDevice(phone.mux, TEST_UDID, join(place, 'copies-of'), {
      ...{ part, folder, report: () => {} },
      ...(signal && { signal }),
    })
  return { phone, place: join(place, 'copies-of'), folder, copy }
}

/** The folder of a copy is named after the second of its state: two need different ones. */
const aSecond = () => new Promise((go) => setTimeout(go, 1100))

/** The copies of a place; none where its folder was not made yet. */
const keptIn = async (place: string) => (existsSync(place) ? (await copiesIn(place)).copies : [])

const checked = ({ folder }: SafeCopy) =>
  tool('sh', '-c', `cd '${folder}' && sha256sum --quiet -c manifest-sha256.txt tagmanifest-sha256.txt && echo right`)

async function contentOf(tree: SourceTree, { domain, path }: { domain: string; path: string }): Promise<Buffer> {
  const entry = tree.find(domain, path)
  const content = entry && (await tree.open(entry))
  if (!content) throw new Error(`${path} is not there`)
  try {
    return Buffer.from(await readAll(content, content.size))
  } finally {
    await content.close()
  }
}

const original = () => openBackup(demoBackup(inject('demoFolder')).folder, () => {})

describe('a safe copy of a device', () => {
  it('holds the media area byte for byte, and a later one fetches only what is new', async () => {
    const { phone, folder, copy } = await phoneAndPlace()
    const first = await copy()
    expect(first).toMatchObject({ made: true, copy: { missing: 0, kind: 'device', deviceName: 'Odile’s phone' } })
    expect(checked(first.copy)).toContain('right')
    const tree = await openSource(first.copy.folder, () => {})
    const source = await original()
    let compared = 0
    for (const entry of tree.entries()) {
      if (entry.kind !== 'file') continue
      expect((await contentOf(tree, entry)).equals(await contentOf(source, entry)), entry.path).toBe(true)
      compared++
    }
    expect(compared).toBeGreaterThan(25)
    expect(existsSync(folder)).toBe(false)

    await aSecond()
    const sent = phone.device.sentBytes
    const second = await copy()
    expect(second).toMatchObject({ made: true, newContents: 0, newBytes: 0, copy: { files: first.copy.files } })
    // The listing alone.
    expect(phone.device.sentBytes - sent).toBeLessThan(first.copy.bytes / 20)
  })

  it('holds everything that the device gives in a backup too', async () => {
    const { copy } = await phoneAndPlace()
    const { copy: made } = await copy('everything')
    expect(made.missing).toBe(0)
    expect(checked(made)).toContain('right')
    const tree = await openSource(made.folder, () => {})
    for (const path of ['Library/SMS/sms.db', 'Library/AddressBook/AddressBook.sqlitedb'])
      expect(tree.find('HomeDomain', path), path).toBeDefined()
    expect([...tree.entries()].filter(({ path }) => path.startsWith(PICTURE)).length).toBeGreaterThan(25)
  })

  it('is not there where the cable was pulled, and goes on with what came', async () => {
    const { phone, place, copy } = await phoneAndPlace()
    phone.device.set({ cableSpeed: 2_000_000 })
    setTimeout(() => phone.device.set({ plugged: false }), 400)
    await expect(copy()).rejects.toMatchObject({ code: 'unplugged' })
    expect(await keptIn(place)).toEqual([])
    phone.device.set({ plugged: true, cableSpeed: 0 })
    const { copy: made } = await copy()
    expect(made.missing).toBe(0)
    expect(checked(made)).toContain('right')
  })

  it('stops when it is asked to, with the reason that was given', async () => {
    const { phone, place, copy } = await phoneAndPlace()
    phone.device.set({ cableSpeed: 500_000 })
    const stop = new AbortController()
    const reason = new Error('somebody wants it so')
    setTimeout(() => stop.abort(reason), 300)
    await expect(copy('media', stop.signal)).rejects.toBe(reason)
    expect(await keptIn(place)).toEqual([])
  })

  it('takes anew what changed on the device, and keeps the state of before', async () => {
    const { phone, copy } = await phoneAndPlace()
    const first = await copy()
    const file = phone.files.list.find(({ path }) => path.startsWith(PICTURE))
    if (!file) throw new Error('the phone has no picture')
    writeFileSync(join(phone.files.folder, file.id.slice(0, 2), file.id), 'changed')
    Object.assign(file, { size: 'changed'.length, modifiedAt: new Date() })
    await aSecond()
    const second = await copy()
    expect(second.newContents).toBe(1)
    const read = async ({ folder }: SafeCopy) =>
      (await contentOf(await openSource(folder, () => {}), file)).toString('latin1')
    expect(await read(second.copy)).toBe('changed')
    expect(await read(first.copy)).not.toBe('changed')
  })
})
