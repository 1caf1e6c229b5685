import { fromCocoa, fromUnix } from '../../io/time.js'
import { numberValue, type Row, textValue } from '../../sqlite/values.js'
import { keyedBy, ownId } from '../keys.js'
import { type Mapped, rowCategory, type StoreRows } from '../rows.js'
import { callsDefinition } from './definition.js'
import { callFields } from './fields.js'

/** The log of calls: CallHistory.storedata of version 8 and later, call_history.db before. */
export const calls = rowCategory({
  ...callsDefinition,
  fields: callFields,
  stores: [
    { domain: 'HomeDomain', path: 'Library/CallHistoryDB/CallHistory.storedata' },
    { domain: 'WirelessDomain', path: 'Library/CallHistory/call_history.db' },
  ],
  tables: ['ZCALLRECORD', 'call'],
  map: async (row, rows) => named(row.table === 'call' ? legacyCall(row) : call(row, rows), row, rows),
  ...keyedBy(
    ({ fields }) => ownId('id', fields.uniqueId),
    ({ fields, when }) => (when ? `call:${when}:${fields.address}:${fields.direction}` : null),
  ),
})

/** With the name of the address book where the log has none. */
async function named(mapped: Mapped, row: Row, rows: StoreRows): Promise<Mapped> {
  const { fields } = mapped
  if (fields.name) return mapped
  const region = textValue(row.values.ZISO_COUNTRY_CODE)
  const name = (await rows.names(region)).of(textValue(fields.address as string | null))
  return name ? { ...mapped, title: name, fields: { ...fields, name } } : mapped
}

const SERVICES: Record<number, string> = { 1: 'phone', 8: 'video', 16: 'audio' }

function call(row: Row, rows: StoreRows): Mapped {
  const { values } = row
  const originated = numberValue(values.ZORIGINATED)
  const answered = numberValue(values.ZANSWERED)
  const duration = numberValue(values.ZDURATION)
  const participants = participantsOf(numberValue(row.rowid), rows)
  return mapped(row, {
    address: textValue(values.ZADDRESS) || (participants[0] ?? null),
    participants,
    outgoing: originated === null ? null : originated === 1,
    // An outgoing call that lasted was answered, whatever the column says.
    answered: originated === 1 && duration !== null ? duration > 0 : answered === null ? null : answered === 1,
    duration,
    service: SERVICES[numberValue(values.ZCALLTYPE) ?? -1] ?? textValue(values.ZSERVICE_PROVIDER),
    name: textValue(values.ZNAME),
    uniqueId: textValue(values.ZUNIQUE_ID),
    when: fromCocoa(values.ZDATE),
  })
}

// The numbers in the join table's names differ by version.
function participantsOf(id: number | null, rows: StoreRows): string[] {
  const table = [...rows.store.database.tables.values()].find(({ name }) =>
    /^Z_\d+REMOTEPARTICIPANTHANDLES$/.test(name),
  )
  if (!table || id === null) return []
  const [calls, handles] = ['CALLS', 'HANDLES'].map(
    (end) => table.columns.find(({ name }) => name.endsWith(end))?.name ?? '',
  )
  return rows.having(table.name, calls as string, id).flatMap((join) => {
    const handle = rows.byId('ZHANDLE', numberValue(join.values[handles as string]))
    const address = handle && (textValue(handle.values.ZVALUE) ?? textValue(handle.values.ZNORMALIZEDVALUE))
    return address ? [address] : []
  })
}

const OUTGOING = 1
const VIDEO = 16

function legacyCall(row: Row): Mapped {
  const flags = numberValue(row.values.flags)
  const duration = numberValue(row.values.duration)
  return mapped(row, {
    address: textValue(row.values.address) || null,
    participants: [],
    outgoing: flags === null ? null : (flags & OUTGOING) === 1,
    answered: duration === null ? null : duration > 0,
    duration,
    service: flags !== null && flags & VIDEO ? 'video' : 'phone',
    name: textValue(row.values.name),
    uniqueId: null,
    when: fromUnix(row.values.date),
  })
}

interface CallParts {
  address: string | null
  participants: string[]
  outgoing: boolean | null
  answered: boolean | null
  duration: number | null
  service: string | null
  name: string | null
  uniqueId: string | null
  when: Date | null
}

function mapped(row: Row, call: CallParts): Mapped {
  const { address, participants, outgoing, answered, duration, service, name, uniqueId, when } = call
  const kind =
    outgoing === null ? 'call' : outgoing ? 'outgoing call' : answered === false ? 'missed call' : 'incoming call'
  return {
    when,
    title: name || address || 'unknown number',
    text: duration ? `${kind}, ${lengthOf(duration)}` : kind,
    fields: {
      address,
      participants,
      name,
      direction: outgoing === null ? null : outgoing ? 'out' : 'in',
      answered,
      durationSeconds: duration,
      service,
      uniqueId,
    },
    whole: address !== null && when !== null && !row.missing.includes('ZDURATION'),
  }
}

const lengthOf = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.round(seconds % 60)).padStart(2, '0')}`
