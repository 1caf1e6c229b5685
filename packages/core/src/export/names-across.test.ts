import { describe, expect, it } from 'vitest'
import type { CategoryId } from '../categories/registry.js'
import type { Json, Sighting } from '../categories/types.js'
import { NamesAcross } from './names-across.js'

const card = (title: string, ...phones: string[]) => ({
  title,
  fields: {
    phones: phones.map((value) => ({ label: null, value })),
    emails: [{ label: 'home', value: `${title}@x.example` }],
  },
})

const item = (category: CategoryId, title: string, fields: { [key: string]: Json }): Sighting => ({
  category,
  title,
  fields,
  condition: 'live',
  when: null,
  text: null,
  content: null,
  origin: { domain: '', path: '', table: null, rowid: null, place: 'live', page: null, offset: null },
  missing: [],
  confidence: 1,
})

describe('names of people from all sources', () => {
  const names = new NamesAcross()
  names.add(card('Bram Okafor', '+1 (202) 555-0101'))
  names.add(card('Somebody older', '+12025550101', '+12025550102'))
  names.add(card('', '+12025550103'))

  it.each([
    ['+12025550101', 'Bram Okafor'],
    ['+1 202 555 0102', 'Somebody older'],
    ['+12025550103', null],
    ['bram okafor@X.example', 'Bram Okafor'],
    ['', null],
  ])('know "%s" as %s', (address, name) => expect(names.of(address)).toBe(name))

  it('are given to senders, callers and titles that have none', () => {
    const incoming = names.given(
      item('messages', '+12025550101, +12025550199', { sender: '+12025550101', senderName: null, direction: 'in' }),
    )
    expect(incoming.title).toBe('Bram Okafor, +12025550199')
    expect(incoming.fields.senderName).toBe('Bram Okafor')
    expect(incoming.fields.sender).toBe('+12025550101')
    const call = names.given(item('calls', '+12025550102', { address: '+12025550102', name: null }))
    expect([call.title, call.fields.name]).toEqual(['Somebody older', 'Somebody older'])
  })

  it('take the place of no name that the source itself has', () => {
    const own = item('messages', 'Tour crew', { sender: '+12025550101', senderName: 'Brammie' })
    expect(names.given(own)).toEqual(own)
    const call = item('calls', 'Brammie', { address: '+12025550101', name: 'Brammie' })
    expect(names.given(call)).toEqual(call)
    const photo = item('photos', '+12025550101', {})
    expect(names.given(photo)).toBe(photo)
  })
})
