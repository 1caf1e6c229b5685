import { describe, expect, test } from 'vitest'
import { CONTENT_STATES, type ContentState, RETRIABLE } from './content-states.js'
import { isClosed, missingContents, type StepAccount, silentStores } from './step-account.js'

/** A step that read all of its only store. */
const account = (part: Partial<StepAccount> = {}): StepAccount => ({
  stores: { '': 'whole' },
  read: 3,
  rowsSkipped: 0,
  pagesSkipped: 0,
  content: {},
  ...part,
})

// docs/truth.md, rules 6, 7 and 11.
describe('the account of a step', () => {
  test('closes where its store was read to the end, or is not in the source at all', () => {
    expect(isClosed(account())).toBe(true)
    expect(isClosed(account({ stores: { '': 'absent' }, read: 0 }))).toBe(true)
    expect(isClosed(account({ stores: { one: 'whole', two: 'absent' } }))).toBe(true)
  })

  test.each([
    ['a store that is damaged', { stores: { '': 'damaged' } }],
    ['a store that is listed and not there', { stores: { '': 'missing' } }],
    ['one of several stores that is damaged', { stores: { one: 'whole', two: 'damaged' } }],
    ['a row that could not be read', { rowsSkipped: 1 }],
    ['a page that could not be read', { pagesSkipped: 1 }],
    ...RETRIABLE.map((state): [string, Partial<StepAccount>] => [
      `a content that is ${state}`,
      { content: { [state]: 1 } },
    ]),
  ] as [string, Partial<StepAccount>][])('stays open with %s', (_, part) => {
    expect(isClosed(account(part))).toBe(false)
  })

  test('closes with contents that no other try will bring', () => {
    const lost = CONTENT_STATES.filter((state) => !RETRIABLE.includes(state))
    for (const state of lost) expect(isClosed(account({ content: { [state]: 5 } })), state).toBe(true)
    expect(lost).toContain('present')
  })

  test('lets the silence of those stores count that were there and read to their end', () => {
    const stores = { calendar: 'whole', reminders: 'damaged', notes: 'missing', tasks: 'absent' } as const
    expect([...silentStores({ stores })]).toEqual(['calendar'])
    // An empty store is an answer, an absent one is none.
    expect(silentStores({ stores: { '': 'whole' } }).has('')).toBe(true)
    expect(silentStores({ stores: { '': 'absent' } }).size).toBe(0)
  })

  test('names contents that are not there, and no others', () => {
    const content: { [state in ContentState]?: number } = { present: 8, none: 2, lost: 1, gone: 3 }
    const missing = missingContents({ content })
    expect(missing).toHaveLength(2)
    expect(Object.fromEntries(missing)).toEqual({ lost: 1, gone: 3 })
    expect(missingContents({ content: { present: 4, lost: 0 } })).toEqual([])
  })
})
