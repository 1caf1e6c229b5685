import { describe, expect, it } from 'vitest'
import { formatBytes, formatCount, formatTime, plural } from '../../domain/format.js'
import { nextStep } from './JobTable.js'

describe('the next step of a job', () => {
  it.each([
    [{ sources: 0, findings: 0, tray: 0, handovers: 0 }, 'Add a source', 'sources'],
    [{ sources: 1, findings: 0, tray: 0, handovers: 0 }, 'Read the source', 'sources'],
    [{ sources: 1, findings: 9, tray: 0, handovers: 0 }, 'Choose findings', 'findings'],
    [{ sources: 1, findings: 9, tray: 2, handovers: 0 }, 'Hand over', 'handover'],
    [{ sources: 1, findings: 9, tray: 2, handovers: 1 }, 'Check and close', 'handover'],
  ])('%j: %s', (counts, label, view) => {
    expect(nextStep(counts)).toEqual({ label, view })
  })
})

describe('numbers and times on screen', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [14_348_543, '14.3 MB'],
    [123_456_789, '123 MB'],
    [33e9, '33.0 GB'],
    [5e15, '5000 TB'],
  ])('%i bytes are %s', (bytes, text) => {
    expect(formatBytes(bytes)).toBe(text)
  })

  it('has thousands in groups', () => {
    expect([formatCount(0), formatCount(999), formatCount(1000), formatCount(1234567)]).toEqual([
      '0',
      '999',
      '1,000',
      '1,234,567',
    ])
    expect([plural(1, 'file'), plural(2, 'file'), plural(0, 'match', 'matches')]).toEqual([
      '1 file',
      '2 files',
      '0 matches',
    ])
  })

  it('says so where there is no date', () => {
    expect([formatTime('2026-11-14T20:15:00.000Z'), formatTime(null)]).toEqual(['2026-11-14 20:15', 'no date'])
  })
})
