import { describe, expect, it } from 'vitest'
import { dueFrom, type RegularCopyHistory } from './regular-copies.js'

const at = (text: string) => new Date(`${text}Z`)
const weekly = (more: Partial<RegularCopyHistory> = {}): RegularCopyHistory => ({
  ...{ createdAt: at('2026-11-02T09:00'), everyDays: 7, lastAt: null, ended: null },
  ...more,
})

describe('a regular copy', () => {
  it('is due at once where none was made yet', () => {
    expect(dueFrom(weekly())).toEqual(at('2026-11-02T09:00'))
  })

  it('is due a week after the last one, some hours early', () => {
    expect(dueFrom(weekly({ lastAt: at('2026-11-06T10:30') }))).toEqual(at('2026-11-13T04:30'))
  })

  it('is tried again soon after it failed', () => {
    const ended = { state: 'failed' as const, at: at('2026-11-02T09:05') }
    expect(dueFrom(weekly({ ended }))).toEqual(at('2026-11-02T09:15'))
  })

  it('is left alone for a day after somebody stopped it, and not longer than it would have been', () => {
    const ended = { state: 'stopped' as const, at: at('2026-11-02T09:05') }
    expect(dueFrom(weekly({ ended }))).toEqual(at('2026-11-03T09:05'))
    expect(dueFrom(weekly({ lastAt: at('2026-11-01T09:00'), ended }))).toEqual(at('2026-11-08T03:00'))
  })
})
