import type { Db } from '../../apps/workbench/src/database/connection.js'
import { insertSource, type SourceRow } from '../../apps/workbench/src/database/sources.js'

/** A source of a job that lies nowhere: what it shows is stored by hand. */
export async function insertMadeSource(
  db: Db,
  jobId: number,
  path: string,
  takenAt: Date,
  encrypted = false,
): Promise<SourceRow> {
  const info = {
    kind: 'computer-backup' as const,
    layout: 'modern' as const,
    path,
    deviceName: 'phone',
    productType: null,
    osVersion: '17.0',
    uniqueId: null,
    takenAt,
    encrypted,
    installedApps: [],
    complete: true,
  }
  const id = await insertSource(db, jobId, info, { bytes: 0, files: 0 })
  if (id === undefined) throw new Error(`the job has ${path} already`)
  return { id, jobId, path, info, takenAt, bytes: 0, files: 0 }
}
