import { wellFormed } from '@lumbrin/core/io/text'

/** A JSON column's value: mysql2 gives it parsed or as text, by the server's kind of column. */
export const parsed = <T>(value: unknown): T => (typeof value === 'string' ? JSON.parse(value) : value) as T

/** A value for a JSON column, which takes no half characters. */
export const asJson = (value: unknown): string => JSON.stringify(wellFormed(value))

/** A stored id. mysql2 gives BIGINT columns as text where a number could not hold them exactly; ids never get there. */
export const asId = <Id extends number>(stored: unknown): Id => Number(stored) as Id
