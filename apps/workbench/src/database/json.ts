import { wellFormed } from '@lumbrin/core/io/text'

/** A JSON column's value: mysql2 gives it parsed or as text, by the server's kind of column. */
export const parsed = <T>(value: unknown): T => (typeof value === 'string' ? JSON.parse(value) : value) as T

/** A value for a JSON column, which takes no half characters. */
export const asJson = (value: unknown): string => JSON.stringify(wellFormed(value))

/** A number of the database as an id. Ids of big tables come as texts where a number could not hold them. */
export const asId = <Id extends number>(stored: unknown): Id => Number(stored) as Id
