import { readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../tests/setup/fixtures.js'
import { Access, type Session } from './access.js'

const HOUR = 3_600_000

/** An access over a store in memory, at a time that can be moved on. */
async function accessAt(folder = scratchFolder(), kept: { sessions: readonly Session[] } = { sessions: [] }) {
  const clock = { now: Date.UTC(2026, 10, 30) }
  const store = {
    load: async () => [...kept.sessions],
    save: async (sessions: readonly Session[]) => {
      kept.sessions = structuredClone([...sessions])
    },
  }
  const access = new Access(4680, folder, store, () => clock.now)
  await access.open()
  const key = () => new URL(access.address).searchParams.get('key') ?? ''
  /** Lets a browser in; gives the cookie that it sends from then on. */
  const enter = async () => (await access.enter(key()))?.split(';')[0] ?? ''
  return { access, clock, folder, kept, key, enter }
}

describe('the address that lets a browser in', () => {
  it('lies in a file that its user alone can read', async () => {
    const { access, folder } = await accessAt()
    const path = join(folder, 'address')
    expect(readFileSync(path, 'utf8').trim()).toBe(access.address)
    expect(statSync(path).mode & 0o777).toBe(0o600)
  })

  it('is not written into a file that others can read', async () => {
    const folder = scratchFolder()
    writeFileSync(join(folder, 'address'), 'left by somebody', { mode: 0o644 })
    await accessAt(folder)
    expect(statSync(join(folder, 'address')).mode & 0o777).toBe(0o600)
  })

  it('works once; a new one takes its place', async () => {
    const { access, key, folder } = await accessAt()
    const first = key()
    expect(await access.enter(first)).toBeDefined()
    expect(await access.enter(first)).toBeUndefined()
    expect(key()).not.toBe(first)
    expect(readFileSync(join(folder, 'address'), 'utf8')).toContain(key())
    expect(await access.enter(key())).toBeDefined()
  })

  it.each(['', 'x', 'undefined', '\0'.repeat(43)])('is not guessed: %j', async (key) => {
    expect(await (await accessAt()).access.enter(key)).toBeUndefined()
  })

  it('goes when the server ends', async () => {
    const { access, folder } = await accessAt()
    await access.close()
    expect(() => statSync(join(folder, 'address'))).toThrow('ENOENT')
  })
})

describe('a session', () => {
  it('is a cookie that no script sees and no other site sends', async () => {
    const { access, key } = await accessAt()
    expect(await access.enter(key())).toMatch(
      /^lumbrin-4680=[\w-]{43}; HttpOnly; SameSite=Strict; Path=\/; Max-Age=\d+$/,
    )
  })

  it('is known by its cookie among others, and by nothing else', async () => {
    const { access, enter } = await accessAt()
    const cookie = await enter()
    expect(access.knows(cookie)).toBe(true)
    expect(access.knows(`a=b; ${cookie}; c=d`)).toBe(true)
    const [name, token] = cookie.split('=')
    for (const other of [undefined, '', `${name}=`, `${name}=${token}x`, `x${cookie}`, `other=${token}`, `${name}`])
      expect(access.knows(other)).toBe(false)
  })

  it('is kept as a hash only', async () => {
    const { enter, kept } = await accessAt()
    const token = (await enter()).split('=')[1] ?? ''
    expect(token.length).toBe(43)
    expect(JSON.stringify(kept.sessions)).not.toContain(token)
  })

  it('outlasts a restart of the server', async () => {
    const { enter, kept } = await accessAt()
    const cookie = await enter()
    const { access } = await accessAt(scratchFolder(), kept)
    expect(access.knows(cookie)).toBe(true)
  })

  it('ends after twelve hours without work', async () => {
    const { access, enter, clock } = await accessAt()
    const cookie = await enter()
    for (let i = 0; i < 5; i++) {
      clock.now += 11 * HOUR
      expect(access.knows(cookie)).toBe(true)
    }
    clock.now += 13 * HOUR
    expect(access.knows(cookie)).toBe(false)
  })

  it('ends after a week, however busy', async () => {
    const { access, enter, clock } = await accessAt()
    const cookie = await enter()
    for (let hours = 0; hours < 7 * 24 - 1; hours += 6) {
      expect(access.knows(cookie)).toBe(true)
      clock.now += 6 * HOUR
    }
    expect(access.knows(cookie)).toBe(false)
  })

  it('ends when its browser is locked, and no other does', async () => {
    const { access, enter } = await accessAt()
    const [one, two] = [await enter(), await enter()]
    expect(await access.leave(one, false)).toContain('Max-Age=0')
    expect([access.knows(one), access.knows(two)]).toEqual([false, true])
  })

  it('ends with all others when all are locked, for good', async () => {
    const { access, enter, kept } = await accessAt()
    const [one, two] = [await enter(), await enter()]
    await access.leave(one, true)
    expect([access.knows(one), access.knows(two)]).toEqual([false, false])
    expect(kept.sessions).toEqual([])
  })

  it('is one of fifty at most; the oldest go', async () => {
    const { access, enter } = await accessAt()
    const first = await enter()
    const rest: string[] = []
    for (let i = 0; i < 50; i++) rest.push(await enter())
    expect(access.knows(first)).toBe(false)
    expect(rest.every((cookie) => access.knows(cookie))).toBe(true)
  })
})
