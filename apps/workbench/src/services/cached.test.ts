import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { cached } from './cached.js'

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

  it('that failed is asked again', async () => {
    await expect(cached('bad', () => Promise.reject(new Error('away')))).rejects.toThrow('away')
    expect(await cached('bad', async () => 'back')).toBe('back')
  })
})
