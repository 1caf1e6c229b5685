import { labelOfField } from '@lumbrin/core/categories/field-words'
import { describe, expect, it } from 'vitest'
import { countFindings, countTray } from '../components/useJobProgress.js'
import { cellOf, columnsOffered } from '../islands/Findings/columns.js'
import { formatBytes, formatCount, formatDay, formatSeconds, formatTime, plural } from './format.js'
import { stance } from './loss.js'

describe('numbers in words', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [14_320, '14.3 kB'],
    [99_949, '99.9 kB'],
    [120_400, '120 kB'],
    [999_499, '999 kB'],
    [999_500, '1.0 MB'],
    [14_300_000, '14.3 MB'],
    [999_999_999, '1.0 GB'],
    [3_200_000_000_000, '3.2 TB'],
    [4_500_000_000_000_000, '4500 TB'],
  ])('%i bytes are %s', (bytes, words) => {
    expect(formatBytes(bytes)).toBe(words)
  })

  it.each([
    [0, '0'],
    [999, '999'],
    [1000, '1,000'],
    [1_234_567, '1,234,567'],
  ])('%i is %s', (count, words) => {
    expect(formatCount(count)).toBe(words)
  })

  it('one is one, and all others are several', () => {
    expect([plural(0, 'photo'), plural(1, 'photo'), plural(2000, 'photo')]).toEqual([
      '0 photos',
      '1 photo',
      '2,000 photos',
    ])
    expect(plural(2, 'memory', 'memories')).toBe('2 memories')
  })

  it.each([
    [0, '1 second'],
    [89, '89 seconds'],
    [90, '2 minutes'],
    [5399, '90 minutes'],
    [7200, '2 hours'],
  ])('%i s are %s', (seconds, words) => {
    expect(formatSeconds(seconds)).toBe(words)
  })

  it('times are told by the clocks of a zone, and where there is none it is said', () => {
    expect(formatTime('2026-11-14T23:15:59.123Z', 'UTC')).toBe('2026-11-14 23:15')
    expect(formatTime('2026-11-14T23:15:59.123Z', 'Europe/Vienna')).toBe('2026-11-15 00:15')
    expect(formatDay('2026-11-14T23:15:59.123Z', 'Europe/Vienna')).toBe('2026-11-15')
    expect([formatTime(null, 'UTC'), formatDay(null, 'UTC')]).toEqual(['no date', 'no date'])
  })
})

describe('a source’s date', () => {
  const loss = { from: '2026-10-05', to: '2026-11-14' }

  it.each([
    ['2026-10-04T23:59:00Z', loss, ', before the loss'],
    ['2026-10-05T00:00:00Z', loss, ', within the loss'],
    ['2026-11-14T23:00:00Z', loss, ', within the loss'],
    ['2026-11-15T00:00:00Z', loss, ', after the loss'],
    ['2026-11-01T00:00:00Z', { from: '2026-10-05', to: null }, ''],
    ['2026-10-01T00:00:00Z', { from: '2026-10-05', to: null }, ', before the loss'],
    ['2026-11-20T00:00:00Z', { from: null, to: '2026-11-14' }, ', after the loss'],
    ['2026-11-20T00:00:00Z', { from: null, to: null }, ''],
    [null, loss, ''],
  ])('%s beside %j stands%s', (takenAt, brief, words) => {
    expect(stance(takenAt, brief, 'UTC')).toBe(words)
  })
})

describe('what a job counts', () => {
  const progress = { reads: [], handovers: [], facets: null, tray: null }

  it('is not known while it is being counted', () => {
    expect([countFindings(progress), countTray(progress)]).toEqual([null, null])
  })

  it('is summed over categories and standings', () => {
    const facets = { photos: { kept: 3, binned: 1 }, notes: { rebuilt: 2 } }
    expect(countFindings({ ...progress, facets })).toBe(6)
    expect(countFindings({ ...progress, facets: {} })).toBe(0)
    const line = { category: 'photos', standing: 'kept', count: 4, bytes: 9 } as const
    expect(countTray({ ...progress, tray: [line, { ...line, standing: 'binned', count: 2 }] })).toBe(6)
    expect(countTray({ ...progress, tray: [] })).toBe(0)
  })
})

describe('columns of a list', () => {
  const line = (fields: object) => ({ fields }) as Parameters<typeof cellOf>[0]

  it.each([
    [true, 'yes'],
    [false, 'no'],
    [0, '0'],
    [null, ''],
    ['2026-11-14T20:15:59Z', '2026-11-14 20:15'],
    [['Bram', 'Odile'], 'Bram, Odile'],
    ['plain', 'plain'],
  ])('%j stands there as "%s"', (value, words) => {
    expect(cellOf(line({ value }), 'value', 'UTC')).toBe(words)
    expect(cellOf(line({}), 'value', 'UTC')).toBe('')
  })

  it('are offered for every category, and named in words', () => {
    expect(columnsOffered('app-files')).toEqual(['domain', 'path', 'mime'])
    expect(columnsOffered('photos')).toContain('albums')
    expect(labelOfField('originalFileName')).toBe('Name when it was taken')
  })
})
