import { describe, expect, it } from 'vitest'
import { CONTRACTS } from '../api/contracts.js'
import { filterIn } from './filter.js'
import { filterOf, fromAddress, toAddress } from './findings-query.js'

const USUAL = {
  category: 'photos',
  standings: [],
  words: '',
  conversation: null,
  fromDay: null,
  toDay: null,
  matching: false,
  inTray: false,
  compared: null,
  order: 'newest',
}

describe('the filter of a Findings view', () => {
  it('is read from its address', () => {
    expect(filterIn('')).toEqual(USUAL)
    expect(filterIn('category=messages&standings=kept,rebuilt&words=fox&conversation=&order=oldest')).toEqual({
      ...USUAL,
      category: 'messages',
      standings: ['kept', 'rebuilt'],
      words: 'fox',
      conversation: '',
      order: 'oldest',
    })
    expect(filterIn('compared=12,15,wiped').compared).toEqual({ first: 12, second: 15, part: 'wiped' })
  })

  it('is the same whether a view stands in an address or is asked for', () => {
    const address =
      '?category=notes&standings=kept,binned&words=tent&fromDay=2026-05-01&matching=true&compared=1,2,both'
    const query = fromAddress(address)
    const asked = Object.entries(filterOf(query)).filter(([, value]) => value !== null)
    const said = new URLSearchParams(asked.map(([name, value]) => [name, String(value)]))
    expect(filterIn(`${said}`)).toEqual(filterIn(toAddress(query)))
  })

  it.each(['category=secrets', 'standings=kept,gone', 'order=random', `words=${'x'.repeat(300)}`])(
    'refuses %s',
    (address) => {
      expect(() => filterIn(address)).toThrow(expect.objectContaining({ name: expect.stringContaining('ZodError') }))
    },
  )
})

describe('a page of findings', () => {
  const { query } = CONTRACTS['GET /api/jobs/{job}/findings']

  it('begins behind a line', () => {
    expect(query.parse({ afterId: '7', afterWhen: '2026-05-01T00:00:00.000Z' })).toEqual({
      ...USUAL,
      afterId: 7,
      afterWhen: '2026-05-01T00:00:00.000Z',
      afterScore: 0,
      afterTitle: '',
      afterBytes: 0,
    })
  })

  it.each([{ afterId: '-1' }, { afterId: 'x' }, { afterId: '1', afterWhen: 'then' }])('refuses %j', (parameters) => {
    expect(query.safeParse(parameters).success).toBe(false)
  })
})
