import {
  chmodSync,
  linkSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { picture, scratchFolder } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { openBelow } from './bag-place.js'
import type { HandoverItem } from './format.js'
import { writePackage } from './package.js'

const SUBJECT = { jobNumber: null, owner: null, device: null, sought: null }

/** A folder to write into, and one beside it that nothing may be written to, with a file in it. */
function twoFolders() {
  const top = realpathSync(scratchFolder())
  const inside = join(top, 'inside')
  const outside = join(top, 'outside')
  mkdirSync(inside)
  mkdirSync(outside)
  writeFileSync(join(outside, 'a.jpg'), 'somebody else’s')
  return { top, inside, outside }
}

const modeOf = (path: string) => statSync(path).mode & 0o777

describe('a file of a package', () => {
  it('is for its writer alone, with its folders', async () => {
    const { inside } = twoFolders()
    const handle = await openBelow(inside, 'data/photos/a.jpg')
    await handle.writeFile('pixels')
    await handle.close()
    expect(modeOf(join(inside, 'data/photos/a.jpg'))).toBe(0o600)
    expect(modeOf(join(inside, 'data/photos'))).toBe(0o700)
  })

  it('is emptied where an attempt before left one', async () => {
    const { inside } = twoFolders()
    mkdirSync(join(inside, 'data'))
    writeFileSync(join(inside, 'data/a.jpg'), 'half of the pixels')
    await (await openBelow(inside, 'data/a.jpg')).close()
    expect(readFileSync(join(inside, 'data/a.jpg'), 'utf8')).toBe('')
  })

  const traps: [string, (inside: string, outside: string) => void][] = [
    ['the file', (inside, outside) => symlinkSync(join(outside, 'a.jpg'), join(inside, 'data/a.jpg'))],
    ['the file, to nothing', (inside, outside) => symlinkSync(join(outside, 'new'), join(inside, 'data/a.jpg'))],
    ['the file, as a second name', (inside, outside) => linkSync(join(outside, 'a.jpg'), join(inside, 'data/a.jpg'))],
    [
      'its folder',
      (inside, outside) => {
        rmSync(join(inside, 'data'), { recursive: true })
        symlinkSync(outside, join(inside, 'data'))
      },
    ],
    [
      'the package',
      (inside, outside) => {
        renameSync(inside, `${inside}.aside`)
        mkdirSync(join(outside, 'data'))
        symlinkSync(outside, inside)
      },
    ],
  ]

  it.each(traps)('is not written through a link in the place of %s', async (_, set) => {
    const { inside, outside } = twoFolders()
    mkdirSync(join(inside, 'data'))
    set(inside, outside)
    await expect(openBelow(inside, 'data/a.jpg')).rejects.toMatchObject({
      name: 'DestinationError',
      message: expect.stringContaining('A link was put in the place of'),
    })
    expect(readFileSync(join(outside, 'a.jpg'), 'utf8')).toBe('somebody else’s')
    expect(readdirSync(outside)).not.toContain('new')
  })
})

/** Six pictures; something happens before the fourth. */
async function* items(happens: () => void): AsyncGenerator<HandoverItem> {
  for (let n = 1; n <= 6; n++) {
    if (n === 4) happens()
    yield {
      sighting: picture(n),
      standing: 'kept',
      open: async () => new MemorySource(Buffer.from(`pixels of ${n}`)),
      reveal: async () => undefined,
    }
  }
}

const namesBelow = (folder: string) => readdirSync(folder, { recursive: true }).map(String)

describe('a package that somebody meddles with while it is written', () => {
  const stagingIn = (top: string) => {
    const name = readdirSync(top).find((one) => one.startsWith('.package.part-'))
    if (!name) throw new Error('the package is written elsewhere')
    return join(top, name)
  }

  it('is not written to where a link leads, and not called done', async () => {
    const { top, outside } = twoFolders()
    const happens = () => {
      const staging = stagingIn(top)
      renameSync(staging, join(top, 'aside'))
      symlinkSync(outside, staging)
    }
    await expect(writePackage(items(happens), { to: join(top, 'package'), subject: SUBJECT })).rejects.toMatchObject({
      name: 'DestinationError',
    })
    expect(namesBelow(outside)).toEqual(['a.jpg'])
    expect(readFileSync(join(outside, 'a.jpg'), 'utf8')).toBe('somebody else’s')
  })

  it('is not called done where files of it are taken away', async () => {
    const { top } = twoFolders()
    const happens = () => rmSync(join(stagingIn(top), 'data/photos/2026'), { recursive: true })
    await expect(writePackage(items(happens), { to: join(top, 'package'), subject: SUBJECT })).rejects.toThrow(
      'cannot be read back as it was',
    )
    expect(readdirSync(top).sort()).toEqual(['inside', 'outside'])
  })

  it('is not called done where all of it is taken away', async () => {
    const { top } = twoFolders()
    const happens = () => rmSync(stagingIn(top), { recursive: true })
    await expect(writePackage(items(happens), { to: join(top, 'package'), subject: SUBJECT })).rejects.toThrow()
    expect(readdirSync(top)).not.toContain('package')
  })

  it('goes to where a link of the technician’s leads', async () => {
    const { top, inside } = twoFolders()
    symlinkSync(inside, join(top, 'disk'))
    await writePackage(
      items(() => {}),
      { to: join(top, 'disk'), subject: SUBJECT },
    )
    expect(namesBelow(inside)).toContain('bagit.txt')
    expect(modeOf(inside)).toBe(0o700)
  })

  // Where this user may not write, the system says so for everybody but the superuser.
  it.skipIf(process.getuid?.() === 0)('says so in words where it cannot be written', async () => {
    const { top, inside } = twoFolders()
    chmodSync(inside, 0o500)
    await expect(
      writePackage(
        items(() => {}),
        { to: join(inside, 'package'), subject: SUBJECT },
      ),
    ).rejects.toThrow('cannot be written')
    chmodSync(inside, 0o700)
    expect(readdirSync(top).sort()).toEqual(['inside', 'outside'])
  })
})
