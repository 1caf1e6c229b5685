/**
 * What can be wrong with bytes. The list is closed, so that callers can tell the cases apart. `unreadable`: the system does
 * not give them out.
 */
export type FormatErrorCode =
  | 'truncated'
  | 'bad-magic'
  | 'bad-value'
  | 'too-deep'
  | 'too-large'
  | 'unsupported'
  | 'unreadable'

/** Bytes that are not what their format says. `at` is the byte offset within the thing that was read. */
export class FormatError extends Error {
  override readonly name = 'FormatError'
  constructor(
    readonly code: FormatErrorCode,
    readonly at: number,
    detail: string,
    options?: ErrorOptions,
  ) {
    super(`${detail} (at byte ${at})`, options)
  }
}

/** Why a source as a whole cannot be used; the command line maps these to its exit codes. */
export type SourceErrorCode = 'not-found' | 'not-a-backup' | 'not-readable' | 'password-needed' | 'password-wrong'

/** A source that cannot be opened. The message says what happened and what to do. */
export class SourceError extends Error {
  override readonly name = 'SourceError'
  constructor(
    readonly code: SourceErrorCode,
    detail: string,
    options?: ErrorOptions,
  ) {
    super(detail, options)
  }
}

import type { WarningCode } from './warnings.js'

/** Something that was skipped or doubtful. Reading goes on; the warning is shown with the read. */
export interface Warning {
  code: WarningCode
  message: string
  /** File or database the warning is about, as the source names it. */
  path?: string
}

/** Receives warnings while something is read. */
export type Report = (warning: Warning) => void

/** The words of anything thrown, for a warning or a log line. */
export const messageOf = (thrown: unknown): string => (thrown instanceof Error ? thrown.message : String(thrown))
