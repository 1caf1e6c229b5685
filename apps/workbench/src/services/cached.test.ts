import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { cached, forget } from './cached.js'

describe('a costly question', () => {
  it('is asked once for all who ask at the same time, and anew when its answer is old', async () => {
    let asked = 0
    const ask = () =>
      cached('slow', async () => {
        await sleep(30)
        return ++asked
      })
    expect(await Promise.all([ask(), ask(), ask()])).toEqual([1, 1, 1])
    expect(await ask()).toBe(1)
    await sleep(400)
    expect(await ask()).toBe(2)
  })

  it('is asked anew when something of its job changed, also while the old answer is on its way', async () => {
    let asked = 0
    const ask = (job: number) =>
      cached(`slow ${job} more`, async () => {
        const own = ++asked
        await sleep(50)
        return own
      })
    expect(await Promise.all([ask(12), ask(1)])).toEqual([1, 2])
    forget(1)
    const late = ask(1)
    expect(await ask(12)).toBe(1)
    forget(1)
    expect(await ask(1)).toBe(4)
    expect(await late).toBe(3)
    expect(await ask(1)).toBe(4)
  })

  it('that failed is asked again', async () => {
    await expect(cached('bad', () => Promise.reject(new Error('away')))).rejects.toThrow('away')
    expect(await cached('bad', async () => 'back')).toBe('back')
  })
})
