import { describe, expect, it } from 'vitest'
import { BACKUP_FITS, byFit, type FitFacts, type FitQuestion, fitsOf } from './backup-fit.js'

const PHONE = '00008110-0012ABCD3456EF01'
const OTHER = '00008020-00FF00FF00FF00FF'

const backup = (path: string, takenAt: string | null, more: Partial<FitFacts> = {}): FitFacts => ({
  path,
  takenAt,
  deviceName: 'Odile’s phone',
  uniqueId: PHONE,
  kind: 'computer-backup',
  encrypted: false,
  osVersion: '17.6',
  complete: true,
  files: 100,
  ...more,
})

const QUESTION: FitQuestion = {
  from: '2026-11-10',
  to: '2026-11-14',
  zone: 'UTC',
  devices: [],
  named: '',
  wanted: ['messages'],
  added: [],
}
const fits = (found: FitFacts[], question: Partial<FitQuestion> = {}) =>
  Object.fromEntries(fitsOf(found, { ...QUESTION, ...question }))

describe('how a backup fits a job', () => {
  it('goes by its day and that of the loss', () => {
    const found = [
      backup('/old', '2025-02-01T10:00:00Z'),
      backup('/earlier', '2026-09-01T10:00:00Z'),
      backup('/newest', '2026-11-09T10:00:00Z'),
      backup('/amid', '2026-11-12T10:00:00Z'),
      backup('/later', '2026-11-20T10:00:00Z'),
      backup('/undated', null),
    ]
    expect(fits(found)).toEqual({
      '/old': 'before',
      '/earlier': 'before',
      '/newest': 'best',
      '/amid': 'within',
      '/later': 'after',
      '/undated': 'undated',
    })
    expect(fits(found, { from: null, to: null })['/newest']).toBe('undated')
  })

  it('has none that fits best where all from before are of long ago', () => {
    expect(fits([backup('/old', '2024-02-01T10:00:00Z')])).toEqual({ '/old': 'before' })
  })

  it('takes days as the job’s zone has them', () => {
    const found = [backup('/night', '2026-11-14T23:30:00Z')]
    expect(fits(found)['/night']).toBe('within')
    expect(fits(found, { zone: 'Asia/Tokyo' })['/night']).toBe('after')
  })

  it('marks the best of each device while none is known, and others’ as others’ once one is', () => {
    const found = [
      backup('/mine', '2026-11-01T10:00:00Z'),
      backup('/theirs', '2026-11-02T10:00:00Z', { uniqueId: OTHER }),
      backup('/nobody’s', '2026-11-03T10:00:00Z', { uniqueId: null }),
    ]
    expect(new Set(Object.values(fits(found)))).toEqual(new Set(['best']))
    expect(fits(found, { devices: [PHONE.toLowerCase()] })).toEqual({
      '/mine': 'best',
      '/theirs': 'other',
      '/nobody’s': 'other',
    })
  })

  it('goes by the name that the brief gives the device while no source says which it is', () => {
    const found = [
      backup('/mine', '2026-11-01T10:00:00Z'),
      backup('/theirs', '2026-11-02T10:00:00Z', { uniqueId: OTHER, deviceName: 'Bram’s phone' }),
    ]
    expect(fits(found, { named: 'odile’s phone, with a cracked screen' })).toEqual({
      '/mine': 'best',
      '/theirs': 'other',
    })
    expect(fits(found, { named: 'a phone' })).toEqual({ '/mine': 'best', '/theirs': 'best' })
    expect(fits(found, { named: 'odile’s phone', devices: [OTHER] })['/theirs']).toBe('best')
  })

  it('takes one folder for a state that lies in several: that of the job, a whole one, the one with most in it', () => {
    const at = '2026-11-01T10:00:00Z'
    expect(
      fits([backup('/a', at), backup('/b', at, { files: 120 }), backup('/c', at, { complete: false, files: 900 })]),
    ).toEqual({ '/a': 'copy', '/b': 'best', '/c': 'copy' })
    expect(fits([backup('/a', at), backup('/b', at, { files: 120 })], { added: ['/a'] })).toEqual({
      '/a': 'added',
      '/b': 'copy',
    })
    // With and without a password are two backups, though of one moment.
    expect(fits([backup('/a', at), backup('/b', at, { encrypted: true })])['/a']).not.toBe('copy')
  })

  it('says where what is sought is never in such a backup', () => {
    const found = [
      backup('/plain', '2026-11-01T10:00:00Z'),
      backup('/locked', '2026-11-02T10:00:00Z', { encrypted: true }),
      backup('/early', '2026-11-01T11:00:00Z', { osVersion: '12.4' }),
    ]
    expect(fits(found, { wanted: ['calls'] })).toEqual({ '/plain': 'unable', '/locked': 'best', '/early': 'before' })
    expect(fits(found, { wanted: ['calls', 'messages'] })['/plain']).toBe('before')
  })
})

describe('the order of reading', () => {
  it('begins with what fits best, and with the newest of each kind', () => {
    const found = [
      backup('/after', '2026-11-20T10:00:00Z'),
      backup('/earlier', '2026-09-01T10:00:00Z'),
      backup('/early', '2026-08-01T10:00:00Z'),
      backup('/best', '2026-11-09T10:00:00Z'),
      backup('/theirs', '2026-11-09T10:00:00Z', { uniqueId: OTHER }),
    ]
    const order = byFit(found, fitsOf(found, { ...QUESTION, devices: [PHONE] })).map(({ path }) => path)
    expect(order).toEqual(['/best', '/earlier', '/early', '/after', '/theirs'])
    expect(new Set(BACKUP_FITS).size).toBe(BACKUP_FITS.length)
  })
})
