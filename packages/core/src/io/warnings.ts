/**
 * Every kind of warning that reading gives, and what happened. The list is closed; docs/warnings.md says what it means for
 * what was read, and a test holds the two together.
 */
export const WARNINGS = {
  'backup-unfinished': 'The last backup run was interrupted.',
  'carving-given-up': 'A search of other bytes for files was ended early.',
  'content-missing': 'A store is listed, and its content is not in the source.',
  'device-file': 'The device did not send a file.',
  'device-file-changed': 'A file changed on the device while it was read.',
  'entries-refused': 'Entries of a list of files are doubled, damaged or lead outside of the source.',
  'file-unreadable': 'The system does not give out a file, or a part of it.',
  'freelist-cut': 'The list of a database’s free pages breaks off.',
  'items-locked': 'Passwords that only the device itself opens.',
  'keybag-damaged': 'Keys of some protection classes cannot be had.',
  'library-line': 'Lines of a list from the cloud are damaged.',
  'listing-damaged': 'Lines of a collection’s listing are damaged.',
  'manifest-damaged': 'The list of files is damaged.',
  'not-stored': 'The database did not take an item.',
  'note-damaged': 'The text or a table of a note cannot be read.',
  'only-in-encrypted': 'Such a source never holds the category.',
  'page-skipped': 'A page of a database is damaged.',
  'plist-damaged': 'A property list of the backup cannot be read.',
  'plist-missing': 'A property list of the backup is missing.',
  'row-skipped': 'A row of a database is damaged.',
  'store-damaged': 'A database cannot be read, or not whole.',
  'store-unknown': 'A database has none of the tables that are known.',
  'wal-unfit': 'A write-ahead log does not fit its database.',
} as const

export type WarningCode = keyof typeof WARNINGS

export const WARNING_CODES = Object.keys(WARNINGS) as WarningCode[]
