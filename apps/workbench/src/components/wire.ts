/** A value as it looks after its way through JSON: dates are texts. */
export type Wire<T> = T extends Date
  ? string
  : T extends (infer U)[]
    ? Wire<U>[]
    : T extends object
      ? { [K in keyof T]: Wire<T[K]> }
      : T

/** Brings a value into the shape in which the browser gets it. */
export const toWire = <T>(value: T): Wire<T> => JSON.parse(JSON.stringify(value)) as Wire<T>
