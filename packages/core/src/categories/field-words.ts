import { formatBytes } from '../io/bytes.js'
import { minuteIn } from '../io/time-zone.js'
import type { Json } from './types.js'

/** Labels of fields that are not their name in plain words. */
const LABELS: Record<string, string> = {
  accessGroup: 'Kept by',
  allDay: 'Lasts the whole day',
  answered: 'Answered',
  at: 'At',
  bssid: 'Access point',
  burst: 'Series',
  contentId: 'Content id',
  direction: 'Way',
  durationSeconds: 'Length',
  editedPath: 'Edited copy',
  fileBytes: 'Size of the file',
  filmPath: 'Film of the live photo',
  fromMe: 'Sent by the owner',
  guid: 'Message id',
  jobTitle: 'Job',
  originalFileName: 'Name when it was taken',
  pageTitle: 'Page',
  ssid: 'Network',
  timeZone: 'Time zone',
  url: 'Address',
  urls: 'Addresses',
  uuid: 'Item id',
  visits: 'Visits',
  when: 'When',
  zoneKnown: 'Time zone known',
}

/** A field's label, such as "Participants" or "Sent at". */
export const labelOfField = (name: string): string =>
  LABELS[name] ??
  name.charAt(0).toUpperCase() +
    name
      .slice(1)
      .replace(/([A-Z])/g, ' $1')
      .toLowerCase()

/** Fields by which programs tell items apart; they say nothing to people. */
export const ID_FIELDS: readonly string[] = [
  'uuid',
  'guid',
  'uniqueId',
  'bundleId',
  'contentId',
  'accessGroup',
  'parent',
  'conversation',
  'bssid',
  'remoteId',
  'burst',
]

/** Of fields that hold yes or no: what is to be said where it is so, or is not. What is not named is said by its label. */
const FLAGS: Record<string, { yes?: string; no?: string }> = {
  allDay: { yes: 'lasts the whole day' },
  answered: { yes: 'was answered', no: 'was not answered' },
  attached: {},
  contentMissing: { yes: 'its content is not in the source' },
  done: { yes: 'done', no: 'not done yet' },
  edited: { yes: 'was edited' },
  favourite: { yes: 'a favourite' },
  flagged: { yes: 'flagged' },
  fromMe: { yes: 'sent by the owner', no: 'sent by the other side' },
  hasSecret: { yes: 'holds a password' },
  hidden: { yes: 'hidden by the owner' },
  installed: { yes: 'installed', no: 'not installed any more' },
  locked: { yes: 'locked with a password of its own' },
  private: { yes: 'in a private tab' },
  withdrawn: { yes: 'taken back by its sender' },
  zoneKnown: { no: 'the time is that of the camera’s own clock: its zone is not known' },
}

/** What flags say, in words; nothing of those that go without saying. */
export const flagsIn = (fields: { readonly [name: string]: Json }): string[] =>
  Object.entries(fields).flatMap(([name, value]) => {
    if (typeof value !== 'boolean') return []
    const words = FLAGS[name]
    if (!words) return value ? [labelOfField(name).toLowerCase()] : []
    return (value ? words.yes : words.no) ?? []
  })

/** "0:42", "1:03:20". */
function lengthOf(seconds: number): string {
  const whole = Math.round(seconds)
  const parts = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60]
  const shown = parts[0] === 0 ? parts.slice(1) : parts
  return shown.map((part, i) => (i === 0 ? String(part) : String(part).padStart(2, '0'))).join(':')
}

/** The value of a field as it stands on screen, with its unit; times by the clocks of a zone. */
export function valueOfField(name: string, value: Json, zone: string): string {
  if (typeof value === 'number') {
    if (name === 'durationSeconds') return lengthOf(value)
    if (name === 'fileBytes' || name === 'bytes') return formatBytes(value)
    return String(Math.round(value * 1e6) / 1e6)
  }
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (name === 'direction') return value === 'out' ? 'sent' : 'received'
  if (typeof value === 'string') return /^\d{4}-\d\d-\d\dT/.test(value) ? minuteIn(new Date(value), zone) : value
  if (value === null) return ''
  if (!Array.isArray(value)) return recordText(value, zone)
  // Labelled values and addresses stand on a line each, plain ones in one.
  return value
    .map((one) => valueOfField(name, one, zone))
    .join(value.some((one) => typeof one === 'object') ? '\n' : ', ')
}

export const isSaid = (value: Json) => value !== null && value !== '' && !(Array.isArray(value) && value.length === 0)

function recordText({ label, ...parts }: { [key: string]: Json }, zone: string): string {
  const entries = Object.entries(parts).filter(([, part]) => isSaid(part))
  const named = label === undefined && entries.length > 1
  const text = entries
    .map(([name, part]) => (named ? `${labelOfField(name).toLowerCase()} ` : '') + valueOfField(name, part, zone))
    .join(', ')
  return typeof label === 'string' ? `${label}: ${text}` : text
}
