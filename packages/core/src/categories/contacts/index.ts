import { fromCocoa } from '../../io/time.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { keyedBy, ownId } from '../keys.js'
import { type Mapped, rowCategory, type StoreRows } from '../rows.js'
import type { Json } from '../types.js'
import { ADDRESS_BOOK, PROPERTY } from './book.js'
import { contactsDefinition } from './definition.js'
import { contactFields } from './fields.js'
import { type ContactPicture, contactPictures } from './pictures.js'

/** The address book, with all labelled values of each card. */
export const contacts = rowCategory({
  ...contactsDefinition,
  fields: contactFields,
  stores: [ADDRESS_BOOK],
  tables: ['ABPerson'],
  map: contact,
  // The card's own id where there is one; otherwise name and addresses, which few cards share.
  ...keyedBy(
    ({ fields }) => ownId('guid', fields.uuid),
    ({ fields, title }) => `card:${title}:${JSON.stringify([fields.phones, fields.emails])}`,
  ),
  alsoHolds: ({ domain, path }) => domain === 'HomeDomain' && path.startsWith('Library/AddressBook/'),
})

// Of each store that is being read: opened once for all its cards.
const pictures = new WeakMap<StoreRows, Promise<Map<number, ContactPicture>>>()

function picturesOf(rows: StoreRows): Promise<Map<number, ContactPicture>> {
  const known = pictures.get(rows) ?? contactPictures(rows.context.tree)
  pictures.set(rows, known)
  return known
}

async function contact(row: Row, rows: StoreRows): Promise<Mapped> {
  const { values } = row
  const text = (column: string) => textValue(values[column]) || null
  const id = numberValue(row.rowid)
  const own = id === null ? [] : rows.having('ABMultiValue', 'record_id', id)
  const labelled = (property: number): Json[] =>
    own
      .filter((value) => numberValue(value.values.property) === property)
      .map((value) => ({ label: labelOf(value, rows), value: textValue(value.values.value) ?? '' }))
  const phones = labelled(PROPERTY.phone)
  const emails = labelled(PROPERTY.email)
  const givenName = text('First')
  const familyName = text('Last')
  const organization = text('Organization')
  const modified = fromCocoa(values.ModificationDate) ?? fromCocoa(values.CreationDate)
  const title =
    [givenName, familyName].filter(Boolean).join(' ') || organization || firstValueOf([...phones, ...emails])
  return {
    when: modified,
    title: title ?? 'Without a name',
    text: [...phones, ...emails].map((one) => (one as { value: string }).value).join(', ') || null,
    fields: {
      givenName,
      middleName: text('Middle'),
      familyName,
      prefix: text('Prefix'),
      suffix: text('Suffix'),
      nickname: text('Nickname'),
      organization,
      department: text('Department'),
      jobTitle: text('JobTitle'),
      phones,
      emails,
      addresses: own
        .filter((value) => numberValue(value.values.property) === PROPERTY.address)
        .map((value) => addressOf(value, rows)),
      urls: labelled(PROPERTY.url),
      related: labelled(PROPERTY.related),
      note: text('Note'),
      birthday: birthdayOf(values.Birthday),
      picture: (id === null ? undefined : (await picturesOf(rows)).get(id)) ?? null,
      uuid: text('guid') ?? text('ExternalUUID'),
      modifiedAt: modified?.toISOString() ?? null,
    },
    whole: title !== null && row.missing.every((column) => !['First', 'Last', 'Organization'].includes(column)),
  }
}

const firstValueOf = (values: Json[]): string | null => (values[0] as { value: string } | undefined)?.value ?? null

/** "mobile" for the system's `_$!<Mobile>!$_`; the owner's own words as they are. */
function labelOf(value: Row, rows: StoreRows): string | null {
  const label = textValue(rows.byId('ABMultiValueLabel', numberValue(value.values.label))?.values.value)
  return label?.match(/^_\$!<(.*)>!\$_$/)?.[1]?.toLowerCase() ?? label
}

const PARTS: Record<string, string> = {
  Street: 'street',
  City: 'city',
  State: 'region',
  ZIP: 'postcode',
  Country: 'country',
}

function addressOf(value: Row, rows: StoreRows): Json {
  const address: { [key: string]: Json } = {
    label: labelOf(value, rows),
    street: null,
    city: null,
    region: null,
    postcode: null,
    country: null,
  }
  const id = numberValue(value.rowid)
  for (const entry of id === null ? [] : rows.having('ABMultiValueEntry', 'parent_id', id)) {
    const key = textValue(rows.byId('ABMultiValueEntryKey', numberValue(entry.values.key))?.values.value)
    const part = key ? PARTS[key] : undefined
    if (part) address[part] = textValue(entry.values.value)
  }
  return address
}

// A birthday without a year is kept in the year 1604 (common practice).
const NO_YEAR = 1604

/** ISO date, or `--MM-DD` (RFC 6350) where the year is not known. Stored as seconds since 2001, as text. */
function birthdayOf(value: unknown): string | null {
  const seconds = typeof value === 'string' && value !== '' ? Number(value) : value
  if (typeof seconds !== 'number' || !Number.isFinite(seconds)) return null
  const date = new Date((seconds + 978_307_200) * 1000)
  if (Number.isNaN(date.getTime())) return null
  const day = date.toISOString().slice(0, 10)
  return date.getUTCFullYear() === NO_YEAR ? `--${day.slice(5)}` : day
}
