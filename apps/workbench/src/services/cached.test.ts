import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { JobId } from '../domain/ids.js'
import { cached, forget } from './cached.js'

const job = (id: number) => id as JobId

const sleep = (ms: number) => new Promise((go) => setTimeout(go, ms))
// A clock of its own: a crowded machine's stands still when it likes.
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms)

beforeEach(() => {
  vi.useFakeTimers()
})
afterEach(() => {
  vi.useRealTimers()
})

describe('a costly question', () => {
  it('is asked once for all who ask at the same time, and anew when its answer is old', async () => {
    let asked = 0
    const ask = () =>
      cached('slow', async () => {
        await sleep(30)
        return ++asked
      })
    const first = Promise.all([ask(), ask(), ask()])
    await pass(30)
    expect(await first).toEqual([1, 1, 1])
    await pass(140)
    expect(await ask()).toBe(1)
    await pass(20)
    const second = ask()
    await pass(30)
    expect(await second).toBe(2)
  })

  it('is forgotten alone, where only its answer changed', async () => {
    const asked: string[] = []
    const ask = (key: string) =>
      cached(key, async () => {
        asked.push(key)
        await sleep(50)
      })
    const all = () => Promise.all(['tray 4', 'facets 4', 'tray 5'].map(ask))
    const first = all()
    await pass(50)
    await first
    forget(job(4), 'tray')
    const second = all()
    await pass(50)
    await second
    expect(asked).toEqual(['tray 4', 'facets 4', 'tray 5', 'tray 4'])
  })

  it('is asked anew when something of its job changed, also while the old answer is on its way', async () => {
    let asked = 0
    const ask = (job: number) =>
      cached(`slow ${job} more`, async () => {
        const own = ++asked
        await sleep(50)
        return own
      })
    const both = Promise.all([ask(12), ask(1)])
    await pass(50)
    expect(await both).toEqual([1, 2])
    forget(job(1))
    const late = ask(1)
    expect(await ask(12)).toBe(1)
    forget(job(1))
    const later = ask(1)
    await pass(50)
    expect(await later).toBe(4)
    expect(await late).toBe(3)
    expect(await ask(1)).toBe(4)
  })

  it('that failed is asked again', async () => {
    await expect(cached('bad', () => Promise.reject(new Error('away')))).rejects.toThrow('away')
    expect(await cached('bad', async () => 'back')).toBe('back')
  })
})
