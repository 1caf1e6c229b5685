import { appendFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { picture, scratchFolder, tool } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import type { HandoverItem } from './format.js'
import { writePackage } from './package.js'

const SUBJECT = { jobNumber: null, owner: null, device: null, sought: null }
const away = new Error('the database is away')

/** Pictures by number, and which of them were copied; the sequence breaks off behind so many. */
function attempt(numbers: readonly number[], breaksAfter = numbers.length) {
  const copied: string[] = []
  async function* items(): AsyncGenerator<HandoverItem> {
    for (const [i, n] of numbers.entries()) {
      if (i === breaksAfter) throw away
      yield {
        sighting: picture(n),
        standing: 'kept',
        open: async (_, path) => {
          const source = new MemorySource(Buffer.from(`pixels of ${path}`))
          const read = source.read.bind(source)
          source.read = (start, end) => {
            copied.push(path)
            return read(start, end)
          }
          return source
        },
        reveal: async () => undefined,
      }
    }
  }
  const write = (to: string) =>
    writePackage(items(), { to, id: 'handover 7', subject: SUBJECT, mayPass: (thrown) => thrown === away })
  return { copied, write }
}

const staging = (to: string): string => {
  const name = readdirSync(join(to, '..')).find((one) => one.startsWith('.package.part-'))
  if (!name) throw new Error('nothing was left')
  return join(to, '..', name)
}

const verified = (to: string) =>
  tool('sh', '-c', `cd '${to}' && sha256sum --strict --quiet -c manifest-sha256.txt tagmanifest-sha256.txt`)

describe('a package that was broken off', () => {
  it('is gone on with: what was copied is not copied again', async () => {
    const to = join(scratchFolder(), 'package')
    const first = attempt([1, 2, 3, 4], 2)
    await expect(first.write(to)).rejects.toBe(away)
    expect(first.copied).toEqual(['1', '2'])
    expect(existsSync(to)).toBe(false)
    const second = attempt([1, 2, 3, 4])
    expect(await second.write(to)).toMatchObject({ items: 4, problems: [] })
    expect(second.copied).toEqual(['3', '4'])
    expect(verified(to)).toBe('')
    expect(readdirSync(join(to, '..'))).toEqual(['package'])
  })

  it('takes nothing over that is not what it was, and nothing that is not wanted any more', async () => {
    const to = join(scratchFolder(), 'package')
    await expect(attempt([1, 2, 3, 4], 3).write(to)).rejects.toBe(away)
    writeFileSync(join(staging(to), 'data/photos/2026/05/IMG_2.JPG'), 'pixels of x')
    // A line that was being written when the process was killed.
    appendFileSync(join(staging(to), 'written.jsonl'), '{"place":"photos/2026/05/IMG_4.JPG","key"')
    const second = attempt([1, 2, 4])
    await second.write(to)
    expect(second.copied).toEqual(['2', '4'])
    expect(readdirSync(join(to, 'data/photos/2026/05')).sort()).toEqual(['IMG_1.JPG', 'IMG_2.JPG', 'IMG_4.JPG'])
    expect(readFileSync(join(to, 'data/photos/2026/05/IMG_2.JPG'), 'utf8')).toBe('pixels of 2')
    expect(verified(to)).toBe('')
  })

  it('is known as finished where only the word of it was lost', async () => {
    const to = join(scratchFolder(), 'package')
    const summary = await attempt([1, 2]).write(to)
    const before = readFileSync(join(to, 'bag-info.txt'), 'utf8')
    const again = attempt([1, 2])
    expect(await again.write(to)).toEqual(summary)
    expect(again.copied).toEqual([])
    expect(readFileSync(join(to, 'bag-info.txt'), 'utf8')).toBe(before)
  })

  it('leaves nothing behind where going on makes no sense', async () => {
    const to = join(scratchFolder(), 'package')
    async function* broken(): AsyncGenerator<HandoverItem> {
      yield* []
      throw new Error('no such table')
    }
    await expect(
      writePackage(broken(), { to, id: 'handover 7', subject: SUBJECT, mayPass: (thrown) => thrown === away }),
    ).rejects.toThrow('no such table')
    expect(readdirSync(join(to, '..'))).toEqual([])
  })
})
