import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { PassThrough } from 'node:stream'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { BackupFolder } from './backup-folder.js'
import { BLOCK, blockFrame, nameFrame, numberFrame, receiveFiles } from './file-stream.js'
import { contentId, devicePathOf, placeOf } from './places.js'
import { StreamReader } from './stream.js'

const PATHS_OUT = ['../x', '/etc/x', 'a/../../x', '..', 'a\0b', './../x']

describe('the folder of a device’s backup', () => {
  it.each(PATHS_OUT)('is not left by %j', async (path) => {
    const folder = new BackupFolder(join(scratchFolder(), 'backup'))
    expect(() => folder.resolve(path)).toThrow('outside of its backup')
    await expect(folder.write(path)).rejects.toThrow('outside of its backup')
    await expect(folder.move('a', path)).rejects.toThrow('outside of its backup')
    await expect(folder.remove(path)).rejects.toThrow('outside of its backup')
  })

  it('is not removed as a whole', async () => {
    await expect(new BackupFolder(scratchFolder()).remove('a/..')).rejects.toMatchObject({ code: 'garbled' })
  })
})

/** Receives a stream of these parts, keeping everything. */
async function received(...parts: Uint8Array[]) {
  const root = join(scratchFolder(), 'backup')
  const stream = new PassThrough()
  stream.end(Buffer.concat(parts))
  const told: { path: string; error: string | null }[] = []
  const done = receiveFiles(
    new StreamReader(stream, 500),
    new BackupFolder(root),
    () => true,
    ({ path, error }, bytes) => void (bytes === 0 && told.push({ path, error })),
  )
  return { root, told, done }
}

const text = (words: string) => Buffer.from(words)
const file = (path: string, ...blocks: Uint8Array[]) => Buffer.concat([nameFrame('/var/x'), nameFrame(path), ...blocks])

describe('files as they come from a device', () => {
  it('take their name when they are whole, and leave nothing when the device could not read them', async () => {
    const { root, told, done } = await received(
      file('u/a', blockFrame(BLOCK.data, text('one ')), blockFrame(BLOCK.data, text('two')), blockFrame(BLOCK.done)),
      file('u/b', blockFrame(BLOCK.data, text('half')), blockFrame(BLOCK.deviceError, text('no permission'))),
      file('u/empty', blockFrame(BLOCK.done)),
      numberFrame(0),
    )
    await done
    expect(readdirSync(join(root, 'u')).sort()).toEqual(['a', 'empty'])
    expect(readFileSync(join(root, 'u/a'), 'utf8')).toBe('one two')
    expect(told).toContainEqual({ path: 'u/b', error: 'no permission' })
  })

  it.each([
    ['cut amid a block', blockFrame(BLOCK.data, text('some bytes')).subarray(0, 9), 'unplugged'],
    ['of a block of no size', numberFrame(0), 'garbled'],
    ['of an absurd block', numberFrame(0xffffffff), 'garbled'],
    ['of an unknown kind of block', blockFrame(0x77, text('x')), 'garbled'],
  ])('%s leave nothing', async (_, blocks, code) => {
    const { root, done } = await received(file('u/a', blocks))
    await expect(done).rejects.toMatchObject({ code })
    expect(existsSync(join(root, 'u')) ? readdirSync(join(root, 'u')) : []).toEqual([])
  })

  it('with an absurd name are refused', async () => {
    const { done } = await received(numberFrame(1 << 30))
    await expect(done).rejects.toMatchObject({ code: 'garbled' })
  })
})

describe('the place of a file in a backup', () => {
  it.each([
    ['HomeDomain', 'Library/SMS/sms.db'],
    ['MediaDomain', 'Library/SMS/Attachments/0a/b.jpg'],
    ['CameraRollDomain', 'Media/DCIM/100APPLE/IMG_0001.JPG'],
    ['MediaDomain', 'Media/Recordings/a.m4a'],
    ['AppDomain-example.puppetry.chat', 'Documents/chat.sqlite'],
    ['AppDomainGroup-group.com.apple.notes', 'NoteStore.sqlite'],
  ])('%s, %s is told from its path on the device, and proven by its name', (domain, path) => {
    const place = { domain, path }
    expect(placeOf(devicePathOf(place), contentId(place))).toEqual(place)
    expect(placeOf(devicePathOf(place), contentId({ domain, path: `${path}x` }))).toBeUndefined()
  })
})
