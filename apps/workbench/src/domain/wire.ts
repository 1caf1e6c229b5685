import type { Json } from '@lumbrin/core/categories/types'

/** A value as it looks after its way through JSON: moments are ISO 8601 texts. */
export type Wire<T> = T extends Json | undefined
  ? T
  : T extends Date
    ? string
    : T extends object
      ? { [K in keyof T]: Wire<T[K]> }
      : T

/** Brings a value into the shape in which the browser gets it. */
export const toWire = <T>(value: T): Wire<T> => JSON.parse(JSON.stringify(value)) as Wire<T>
