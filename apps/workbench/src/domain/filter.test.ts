import { describe, expect, it } from 'vitest'
import { CONTRACTS } from '../api/contracts.js'
import { filterIn } from './filter.js'
import { filterOf, fromAddress, toAddress } from './findings-query.js'

const ZONE = 'Europe/Lisbon'

const USUAL = {
  category: 'photos',
  standings: [],
  words: '',
  conversation: null,
  fromDay: null,
  toDay: null,
  zone: ZONE,
  matching: false,
  inTray: false,
  compared: null,
  order: 'newest',
}

describe('the filter of a Findings view', () => {
  it('is read from its address', () => {
    expect(filterIn('', ZONE)).toEqual(USUAL)
    expect(filterIn('category=messages&standings=kept,rebuilt&words=fox&conversation=&order=oldest', ZONE)).toEqual({
      ...USUAL,
      category: 'messages',
      standings: ['kept', 'rebuilt'],
      words: 'fox',
      conversation: '',
      order: 'oldest',
    })
    expect(filterIn('compared=12,15,wiped', ZONE).compared).toEqual({ first: 12, second: 15, part: 'wiped' })
  })

  it('is the same whether a view stands in an address or is asked for', () => {
    const address =
      '?category=notes&standings=kept,binned&words=tent&fromDay=2026-05-01&matching=true&compared=1,2,both'
    const query = fromAddress(address, ZONE)
    const asked = Object.entries(filterOf(query)).filter(([, value]) => value !== null)
    const said = new URLSearchParams(asked.map(([name, value]) => [name, String(value)]))
    expect(filterIn(`${said}`, said.get('zone') ?? '')).toEqual(filterIn(toAddress(query), ZONE))
  })

  it.each(['category=secrets', 'standings=kept,gone', 'order=random', `words=${'x'.repeat(300)}`])(
    'refuses %s',
    (address) => {
      expect(() => filterIn(address, ZONE)).toThrow(
        expect.objectContaining({ name: expect.stringContaining('ZodError') }),
      )
    },
  )
})

describe('a page of findings', () => {
  const { query } = CONTRACTS['GET /api/jobs/{job}/findings']

  it('begins behind a line', () => {
    expect(query.parse({ afterId: '7', afterWhen: '2026-05-01T00:00:00.000Z' })).toEqual({
      ...USUAL,
      zone: 'UTC',
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
