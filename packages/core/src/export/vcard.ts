import ICAL from 'ical.js'
import type { Json } from '../categories/types.js'
import { type Fields, linesOf, oneLine, recordsOf, textOf } from './fields.js'
import type { HandoverItem } from './format.js'
import { SingleFileWriter } from './single-file.js'

type Version = '4.0' | '3.0'

/** Contacts as vCard 4.0 (RFC 6350), all in one file. */
export class VcardWriter extends SingleFileWriter {
  protected readonly ending: string = 'vcf'
  protected readonly version: Version = '4.0'
  protected head(): string {
    return ''
  }
  protected foot(): string {
    return ''
  }
  protected item(item: HandoverItem): string {
    return cardText(item, this.version)
  }
}

/** The same as vCard 3.0 (RFC 2426), for programs that know no later one. */
export class Vcard3Writer extends VcardWriter {
  protected override readonly ending = 'v3.vcf'
  protected override readonly version = '3.0'
}

/** An item as a card of its own. */
export function cardText({ sighting }: HandoverItem, version: Version = '4.0'): string {
  const lines = `${cardOf(sighting.title, sighting.fields, version).toString()}\r\n`.replaceAll('\r\n ', '')
  // The library escapes the comma of an address, which RFC 6350 (section 4.2) leaves as it is.
  return folded(lines.replace(/^(PHOTO:data:image\/\w+;base64)\\,/m, '$1,'))
}

function cardOf(title: string, fields: Fields, version: Version): ICAL.Component {
  const card = new ICAL.Component('vcard')
  const text = (name: string) => textOf(fields, name) ?? ''
  card.addPropertyWithValue('version', version)
  card.addPropertyWithValue('fn', oneLine(title))
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
    for (const one of recordsOf(fields[name])) addLabelled(card, property, one)
  for (const one of recordsOf(fields.addresses)) addAddress(card, one)
  // A date without a year is new in version 4 (RFC 6350, section 4.3.1).
  if (text('birthday') && !(version === '3.0' && text('birthday').startsWith('--')))
    card.addPropertyWithValue('bday', text('birthday'))
  const note = linesOf(fields, 'note')
  if (note) card.addPropertyWithValue('note', note)
  addPicture(card, fields.picture, version)
  if (text('uuid')) card.addPropertyWithValue('uid', uidOf(text('uuid')))
  if (text('modifiedAt')) card.addPropertyWithValue('rev', text('modifiedAt').replace(/\.\d+/, ''))
  // The types of values by their defaults in version 3, which the library knows, but takes from the other one.
  if (version === '3.0')
    for (const property of card.getAllProperties())
      property.jCal[2] = ICAL.design.vcard3.property[property.name]?.defaultType ?? 'text'
  return card
}

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

function addLabelled(card: ICAL.Component, name: string, one: Fields): void {
  const value = textOf(one, 'value')
  if (!value) return
  const property = new ICAL.Property(name, card)
  property.setValue(value)
  const type = TYPES[textOf(one, 'label') ?? '']
  if (type) property.setParameter('type', type)
  card.addProperty(property)
}

function addAddress(card: ICAL.Component, address: Fields): void {
  const part = (name: string) => textOf(address, name) ?? ''
  const property = new ICAL.Property('adr', card)
  property.setValue(['', '', part('street'), part('city'), part('region'), part('postcode'), part('country')] as never)
  const type = TYPES[part('label')]
  if (type) property.setParameter('type', type)
  card.addProperty(property)
}

/** A picture inside of the card: as an address (RFC 6350, section 6.2.4), before that as base64 (RFC 2426, 3.1.4). */
function addPicture(card: ICAL.Component, picture: Json | undefined, version: Version): void {
  const [{ mime, base64 } = {} as Fields] = recordsOf([picture ?? null])
  if (typeof mime !== 'string' || typeof base64 !== 'string') return
  if (!/^image\/(jpeg|png)$/.test(mime) || !/^[A-Za-z0-9+/]+=*$/.test(base64)) return
  const property = new ICAL.Property('photo', card)
  if (version === '3.0') {
    property.setParameter('encoding', 'b')
    property.setParameter('type', mime === 'image/png' ? 'PNG' : 'JPEG')
  }
  property.setValue((version === '3.0' ? base64 : `data:${mime};base64,${base64}`) as never)
  card.addProperty(property)
}

/** A URI, as the property wants: a UUID by its own scheme (RFC 9562, section 4), anything else as it was stored. */
const uidOf = (id: string): string =>
  /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(id) ? `urn:uuid:${id.toLowerCase()}` : id

const MOST_OCTETS = 75

/** Lines, none longer than RFC 6350 (section 3.2) wants them: the library counts a fold's own space out. */
function folded(text: string): string {
  return text.replace(/[^\r\n]{25,}/g, (line) => {
    let length = 0
    let folds = ''
    for (const character of line) {
      const octets = Buffer.byteLength(character)
      if (length + octets > MOST_OCTETS) {
        folds += '\r\n '
        length = 1
      }
      folds += character
      length += octets
    }
    return folds
  })
}
