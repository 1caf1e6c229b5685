import { describe, expect, test } from 'vitest'
import type { CategoryId } from '../categories/registry.js'
import { comparability } from './restore-cost.js'
import type { CategoryState } from './states.js'

const everything = { ofAccount: false, mayHold: () => true }
const FIRST = { id: 1, name: 'Backup of May', ...everything }
const SECOND = { id: 2, name: 'Phone', ...everything }

/** The states of one category: which stores each source was read to the end of. */
const states = (category: CategoryId, stores: { [sourceId: number]: string[] }) =>
  new Map<CategoryId, CategoryState[]>([
    [
      category,
      Object.entries(stores).map(([sourceId, names]) => ({
        sourceId: Number(sourceId),
        device: 'phone',
        at: 0,
        silent: new Set(names),
      })),
    ],
  ])

describe('which categories a restore cost compares', () => {
  test('those in which the word of both counts', () => {
    expect(comparability(['notes'], states('notes', { 1: [''], 2: [''] }), FIRST, SECOND)).toEqual({
      compared: ['notes'],
      not: [],
    })
  })

  test('not one of which a source was not read to its end, and names that source', () => {
    const { compared, not } = comparability(['notes'], states('notes', { 1: [''], 2: [] }), FIRST, SECOND)
    expect(compared).toEqual([])
    expect(not).toEqual([
      { category: 'notes', why: 'of Phone it was not read, is not there, or could not be read to its end' },
    ])
  })

  test('not one that nobody read', () => {
    const { compared, not } = comparability(['notes', 'calls'], new Map(), FIRST, SECOND)
    expect(compared).toEqual([])
    expect(not.map(({ category }) => category)).toEqual(['notes', 'calls'])
    expect(not[0]?.why).toContain('Backup of May')
  })

  test('not one that a source cannot hold, with the reason why it cannot', () => {
    const plain = { ...FIRST, mayHold: (category: CategoryId) => category !== 'calls' }
    const [reason] = comparability(['calls'], states('calls', { 2: [''] }), plain, SECOND).not
    expect(reason?.why).toMatch(/^Backup of May: .+/)
    expect(reason?.why).not.toContain('was not read')
  })

  test('not one of an account, which is no state of a device, whatever it holds', () => {
    const library = { ...SECOND, name: 'Library of Odile', ofAccount: true }
    const [reason] = comparability(['photos'], states('photos', { 1: [''], 2: [] }), FIRST, library).not
    expect(reason?.why).toMatch(/^Library of Odile is of the account/)
  })

  test('not where one holds the data of applications that the other has not', () => {
    const only = states('chats', { 1: ['one', 'two'], 2: ['one'] })
    expect(comparability(['chats'], only, FIRST, SECOND).not).toEqual([
      { category: 'chats', why: 'not both hold the same applications’ data' },
    ])
    const crossed = states('chats', { 1: ['one'], 2: ['two'] })
    expect(comparability(['chats'], crossed, FIRST, SECOND).compared).toEqual([])
    const same = states('chats', { 1: ['one', 'two'], 2: ['two', 'one'] })
    expect(comparability(['chats'], same, FIRST, SECOND).compared).toEqual(['chats'])
  })
})
