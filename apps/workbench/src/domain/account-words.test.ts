import { describe, expect, it } from 'vitest'
import { gapsOf, latestSteps, lookedWords } from './account-words.js'

const account = (more = {}) => ({
  stores: { '': 'whole' as const },
  read: 10,
  rowsSkipped: 0,
  pagesSkipped: 0,
  content: {},
  ...more,
})
type Step = Parameters<typeof gapsOf>[0]
const step = (category: Step['category'], pass: Step['pass'], more = {}): Step => ({
  category,
  pass,
  account: account(more),
})

describe('the account of reads in words', () => {
  it('is the latest of each category and pass', () => {
    const reads = [
      { id: 2, steps: [step('photos', 'live', { read: 20 })] },
      {
        id: 1,
        steps: [step('photos', 'live'), step('messages', 'live'), { ...step('messages', 'residue'), account: null }],
      },
    ]
    expect(latestSteps(reads).map(({ category, account: own }) => [category, own?.read])).toEqual([
      ['photos', 20],
      ['messages', 10],
    ])
  })

  it.each([
    [[step('photos', 'live'), step('messages', 'live')], 'Looked through: Photos, Messages.'],
    [
      [step('photos', 'live'), step('photos', 'residue')],
      'Looked through: Photos. Deleted ones of all of these were searched for.',
    ],
    [
      [step('photos', 'live'), step('messages', 'live'), step('messages', 'residue')],
      'Looked through: Photos, Messages. Deleted ones were searched for: Messages.',
    ],
    [[step('photos', 'carving')], 'Every byte was searched for files of these kinds: Photos.'],
    [[], ''],
  ])('says what was looked for (%#)', (steps, words) => expect(lookedWords(steps)).toBe(words))

  it('names what could not be had, and whether another try may bring it', () => {
    const lack = step('photos', 'live', {
      stores: { '': 'damaged' },
      rowsSkipped: 1,
      content: { present: 5, absent: 2 },
    })
    expect(gapsOf(lack).map(({ label, words, retriable }) => [label, words, retriable])).toEqual([
      ['Photos', 'part of its database could not be read', true],
      ['Photos', '1 damaged row', true],
      ['Photos', '2 without content: never in the source', false],
    ])
    expect(gapsOf(step('photos', 'live'))).toEqual([])
    expect(gapsOf({ ...step('photos', 'live'), account: null })).toEqual([])
  })
})
