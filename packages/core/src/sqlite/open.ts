import type { Report } from '../io/errors.js'
import type { ByteSource } from '../io/source.js'
import { Database } from './database.js'
import { readHeader } from './header.js'
import { readJournal } from './journal.js'
import type { Siblings } from './residue/scan/images.js'
import { readWal } from './wal.js'

/** A database with the files that belong to it, each as far as it is there. */
export interface DatabaseFiles {
  main: ByteSource
  wal?: ByteSource | undefined
  journal?: ByteSource | undefined
}

/** A database in the state that it really holds, and the logs with the states before it. */
export interface OpenedDatabase {
  database: Database
  siblings: Siblings
}

/**
 * Opens a database with its write-ahead log and rollback journal: what the log committed counts, and an interrupted
 * change is rolled back, both in memory only.
 * @throws FormatError when the main file is no database
 */
export function openDatabase(files: DatabaseFiles, report: Report): OpenedDatabase {
  const { pageSize } = readHeader(files.main)
  const wal = files.wal && readWal(files.wal, pageSize, report)
  const journal = files.journal && readJournal(files.journal, pageSize)
  const overlay = wal?.overlay ?? journal?.overlay ?? null
  const database = Database.open(files.main, report, overlay)
  return {
    database,
    siblings: {
      wal: files.wal && wal && { source: files.wal, log: wal },
      journal: files.journal && journal && { source: files.journal, log: journal },
    },
  }
}
