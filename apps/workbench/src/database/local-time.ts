import { offsetsOf } from '@lumbrin/core/io/time-zone'
import type { Knex } from 'knex'
import type { Db } from './connection.js'

// Between these moments lie all dates that sources can give (core, io/time.ts).
const EARLIEST = new Date(Date.UTC(1990, 0, 1))
const LATEST = new Date(Date.UTC(2100, 0, 1))

const known = new Map<string, { changes: string; minutes: string }>()

/**
 * A date column by the clocks of a zone. The database's own tables of zones are empty unless somebody fills them, so the
 * offsets are written into the query: INTERVAL() finds the one that counts by binary search.
 */
export function localTime(db: Db, column: string, zone: string): Knex.Raw {
  if (zone === 'UTC') return db.raw('??', [column])
  const { changes, minutes } = offsetsIn(zone)
  if (changes === '') return db.raw(`(?? + INTERVAL ${minutes} MINUTE)`, [column])
  return db.raw(
    `(?? + INTERVAL ELT(1 + INTERVAL(TIMESTAMPDIFF(SECOND, '1970-01-01', ??), ${changes}), ${minutes}) MINUTE)`,
    [column, column],
  )
}

/** Numbers alone, so that they may stand in a query as they are. */
function offsetsIn(zone: string): { changes: string; minutes: string } {
  const there = known.get(zone)
  if (there) return there
  const offsets = offsetsOf(zone, EARLIEST, LATEST)
  const made = {
    changes: offsets
      .slice(1)
      .map(({ from }) => from / 1000)
      .join(', '),
    minutes: offsets.map((offset) => offset.minutes).join(', '),
  }
  known.set(zone, made)
  return made
}
