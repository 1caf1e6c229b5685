import { describe, expect, it } from 'vitest'
import { brief as briefSchema } from './brief.js'
import { briefSentence } from './brief-words.js'

describe('the brief', () => {
  it('reads words that were stored where there are codes now', () => {
    expect(briefSchema.parse({ owner: 'Odile', deviceState: 'does not start', syncing: 'not known' })).toMatchObject({
      deviceState: 'does-not-start',
      syncing: 'not-known',
    })
  })

  it('needs an owner and nothing else', () => {
    expect(briefSchema.parse({ owner: ' Odile ' })).toEqual({
      owner: 'Odile',
      contact: '',
      device: '',
      categories: [],
      lostFrom: null,
      lostTo: null,
      words: '',
      people: '',
      dueOn: null,
      retentionDays: 30,
      consent: false,
      deviceState: 'in-use',
      syncing: 'not-known',
      notes: '',
      timeZone: null,
    })
    expect(briefSchema.safeParse({ owner: '  ' }).success).toBe(false)
  })

  it.each([
    [{ lostFrom: '2026-05-02', lostTo: '2026-05-01' }],
    [{ lostFrom: 'yesterday' }],
    [{ categories: ['secrets'] }],
    [{ retentionDays: 0 }],
    [{ retentionDays: 'many' }],
  ])('refuses %j', (part) => {
    expect(briefSchema.safeParse({ owner: 'Odile', ...part }).success).toBe(false)
  })

  it.each([
    [{}, 'Looking for anything that can be had.'],
    [{ categories: ['photos'] }, 'Looking for photos.'],
    [
      {
        categories: ['photos', 'messages'],
        people: 'Bram',
        words: 'stage',
        lostFrom: '2026-10-05',
        lostTo: '2026-11-14',
        device: 'her phone',
      },
      'Looking for photos and messages with Bram about “stage” lost between 2026-10-05 and 2026-11-14, on her phone.',
    ],
    [{ lostFrom: '2026-10-05' }, 'Looking for anything that can be had lost after 2026-10-05.'],
    [{ lostFrom: '', lostTo: '2026-10-05' }, 'Looking for anything that can be had lost before 2026-10-05.'],
  ])('%j reads: %s', (part, sentence) => {
    expect(briefSentence(briefSchema.parse({ owner: 'Odile', ...part }))).toBe(sentence)
  })
})
