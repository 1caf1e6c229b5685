import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { sideBySide } from './side-by-side.js'

const upTo = (count: number) => Array.from({ length: count }, (_, i) => i)

describe('many things side by side', () => {
  it('are all done once, with as many at once as were allowed', async () => {
    const done: number[] = []
    let now = 0
    let most = 0
    await sideBySide(upTo(50), 7, async (item) => {
      most = Math.max(most, ++now)
      await sleep(item % 3)
      done.push(item)
      now--
    })
    expect(done.sort((a, b) => a - b)).toEqual(upTo(50))
    expect(most).toBe(7)
  })

  it('end when nothing is on its way any more, with what went wrong first', async () => {
    let now = 0
    let begun = 0
    let told = 0
    const all = sideBySide(
      upTo(50),
      5,
      async (item) => {
        begun++
        now++
        await sleep(item === 2 ? 5 : 40)
        now--
        if (item >= 2) throw new Error(`item ${item}`)
      },
      () => told++,
    )
    await expect(all).rejects.toThrow('item 2')
    expect(now).toBe(0)
    expect(begun).toBe(5)
    expect(told).toBe(1)
  })

  it('need not be any', async () => {
    await sideBySide([], 4, async () => expect.unreachable())
  })
})
