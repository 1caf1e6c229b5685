import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { JobId } from '../domain/ids.js'
import { JobEvents } from './events.js'

const job = (id: number) => id as JobId

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

/** What a stream brings, piece by piece. */
function listen(stream: ReadableStream<Uint8Array> | undefined) {
  if (!stream) throw new Error('there is no stream')
  const reader = stream.getReader()
  const pieces: string[] = []
  let ended = false
  const pump = async () => {
    for (let next = await reader.read(); !next.done; next = await reader.read())
      pieces.push(Buffer.from(next.value).toString())
    ended = true
  }
  void pump()
  return { pieces, isEnded: () => ended, leave: () => reader.cancel() }
}

const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms)

describe('events of jobs', () => {
  it('come at once, and then when something changed, and only then', async () => {
    let state = 'one'
    const { pieces } = listen(new JobEvents(async () => state).stream(job(7)))
    await pass(0)
    expect(pieces).toEqual(['data: one\n\n'])
    await pass(2000)
    expect(pieces.filter((piece) => piece.startsWith('data'))).toHaveLength(1)
    state = 'two'
    await pass(500)
    expect(pieces.at(-1)).toBe('data: two\n\n')
  })

  it('are asked for once, however many listen', async () => {
    const ask = vi.fn(async (job: number) => `job ${job}`)
    const events = new JobEvents(ask)
    const streams = Array.from({ length: 500 }, (_, i) => listen(events.stream(job(i % 2))))
    await pass(4000)
    // Ten ticks of two jobs, and once for each at the beginning of its first listeners.
    expect(ask.mock.calls.length).toBeLessThanOrEqual(2 * 11 + 500)
    const before = ask.mock.calls.length
    await pass(4000)
    expect(ask.mock.calls.length - before).toBe(20)
    expect(streams.every(({ pieces }) => pieces.some((piece) => piece.startsWith('data: job')))).toBe(true)
  })

  it('tell the newest state to who comes later, without asking anew', async () => {
    const ask = vi.fn(async () => 'state')
    const events = new JobEvents(ask)
    listen(events.stream(job(1)))
    await pass(0)
    const later = listen(events.stream(job(1)))
    await pass(0)
    expect(later.pieces).toEqual(['data: state\n\n'])
    expect(ask).toHaveBeenCalledTimes(1)
  })

  it('say now and then that they are still there', async () => {
    const { pieces } = listen(new JobEvents(async () => 'same').stream(job(1)))
    await pass(40_000)
    expect(pieces.filter((piece) => piece === ': still here\n\n').length).toBeGreaterThanOrEqual(2)
  })

  it('stop asking once nobody listens', async () => {
    const ask = vi.fn(async () => 'state')
    const events = new JobEvents(ask)
    const { leave } = listen(events.stream(job(1)))
    await pass(1000)
    await leave()
    const before = ask.mock.calls.length
    await pass(5000)
    expect(ask.mock.calls.length).toBe(before)
  })

  it('go on where a question failed', async () => {
    let fails = true
    const events = new JobEvents(async () => {
      if (fails) throw new Error('the database is away')
      return 'back'
    })
    const { pieces } = listen(events.stream(job(1)))
    await pass(2000)
    expect(pieces.filter((piece) => piece.startsWith('data'))).toEqual([])
    fails = false
    await pass(500)
    expect(pieces.at(-1)).toBe('data: back\n\n')
  })

  it('are cut off from who does not take them, and from nobody else', async () => {
    let n = 0
    const events = new JobEvents(async () => `state ${n++}`)
    // Nobody reads from this one.
    events.stream(job(1))
    const { pieces, isEnded } = listen(events.stream(job(1)))
    await pass(60_000)
    expect(isEnded()).toBe(false)
    expect(pieces.filter((piece) => piece.startsWith('data')).length).toBeGreaterThan(100)
  })

  it('are refused where too many listen, until some have left', async () => {
    const events = new JobEvents(async () => 'state')
    const streams = Array.from({ length: 1000 }, () => listen(events.stream(job(1))))
    expect(events.stream(job(1))).toBeUndefined()
    await streams[0]?.leave()
    expect(events.stream(job(1))).toBeDefined()
  })
})
