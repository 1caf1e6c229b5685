import ICAL from 'ical.js'
import type { Json } from '../categories/types.js'
import type { HandoverItem } from './format.js'
import { SingleFileWriter } from './single-file.js'

/** Contacts as vCard 4.0 (RFC 6350), all in one file. */
export class VcardWriter extends SingleFileWriter {
  protected readonly ending = 'vcf'
  protected head(): string {
    return ''
  }
  protected foot(): string {
    return ''
  }
  protected item({ sighting }: HandoverItem): string {
    return `${cardOf(sighting.title, sighting.fields).toString()}\r\n`
  }
}

type Fields = { [key: string]: Json }

function cardOf(title: string, fields: Fields): ICAL.Component {
  const card = new ICAL.Component('vcard')
  const text = (name: string) => (typeof fields[name] === 'string' ? (fields[name] as string) : '')
  card.addPropertyWithValue('version', '4.0')
  card.addPropertyWithValue('fn', title)
  card.addPropertyWithValue('n', ['familyName', 'givenName', 'middleName', 'prefix', 'suffix'].map(text) as never)
  if (text('nickname')) card.addPropertyWithValue('nickname', text('nickname'))
  if (text('organization'))
    card.addPropertyWithValue('org', [text('organization'), text('department')].filter(Boolean) as never)
  if (text('jobTitle')) card.addPropertyWithValue('title', text('jobTitle'))
  for (const [name, property] of [
    ['phones', 'tel'],
    ['emails', 'email'],
    ['urls', 'url'],
  ] as const)
    for (const one of records(fields[name])) addLabelled(card, property, one.value, one.label)
  for (const one of records(fields.addresses)) addAddress(card, one)
  if (text('birthday')) card.addPropertyWithValue('bday', text('birthday'))
  if (text('note')) card.addPropertyWithValue('note', text('note'))
  if (text('uuid')) card.addPropertyWithValue('uid', uidOf(text('uuid')))
  if (text('modifiedAt')) card.addPropertyWithValue('rev', text('modifiedAt').replace(/\.\d+/, ''))
  return card
}

const records = (value: Json | undefined): Fields[] =>
  Array.isArray(value)
    ? value.filter((one): one is Fields => typeof one === 'object' && one !== null && !Array.isArray(one))
    : []

// The labels of RFC 6350; an owner's own words have no place in TYPE, which takes plain tokens only.
const TYPES: Record<string, string> = {
  mobile: 'cell',
  iphone: 'cell',
  home: 'home',
  work: 'work',
  'home fax': 'fax',
  'work fax': 'fax',
  pager: 'pager',
}

function addLabelled(card: ICAL.Component, name: string, value: Json | undefined, label: Json | undefined): void {
  if (typeof value !== 'string' || value === '') return
  const property = new ICAL.Property(name, card)
  property.setValue(value)
  const type = typeof label === 'string' ? TYPES[label] : undefined
  if (type) property.setParameter('type', type)
  card.addProperty(property)
}

function addAddress(card: ICAL.Component, address: Fields): void {
  const part = (name: string) => (typeof address[name] === 'string' ? (address[name] as string) : '')
  const property = new ICAL.Property('adr', card)
  property.setValue(['', '', part('street'), part('city'), part('region'), part('postcode'), part('country')] as never)
  const type = TYPES[part('label')]
  if (type) property.setParameter('type', type)
  card.addProperty(property)
}

/** A URI, as the property wants: a UUID by its own scheme (RFC 9562, section 4), anything else as it was stored. */
const uidOf = (id: string): string =>
  /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(id) ? `urn:uuid:${id.toLowerCase()}` : id
