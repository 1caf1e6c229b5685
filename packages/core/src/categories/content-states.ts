/**
 * Whether the content of a sighting can be had (docs/truth.md, rule 11):
 * `none` it has none by its nature; `present` it is there; `awaited` it is still to be fetched; `absent` the source never
 * listed it; `lost` it is listed and not there; `unreadable` part of it is missing; `locked` its key cannot be had;
 * `gone` the device or the account does not have it any more. Stored in the database: renaming one needs a migration.
 */
export const CONTENT_STATES = ['none', 'present', 'awaited', 'absent', 'lost', 'unreadable', 'locked', 'gone'] as const
export type ContentState = (typeof CONTENT_STATES)[number]

/** States that another try may change: an account with one of these is not closed. */
export const RETRIABLE: readonly ContentState[] = ['awaited', 'lost', 'unreadable', 'locked', 'gone']
