/** A JSON column's value: mysql2 gives it parsed or as text, by the server's kind of column. */
export const parsed = <T>(value: unknown): T => (typeof value === 'string' ? JSON.parse(value) : value) as T
