import type { ReadStep } from '@lumbrin/core/categories/read'
import type { StoreState } from '@lumbrin/core/categories/step-account'
import type { Sighting } from '@lumbrin/core/categories/types'
import type { Db } from '../../apps/workbench/src/database/connection.js'
import { storeBatch } from '../../apps/workbench/src/database/findings.js'
import { prepare } from '../../apps/workbench/src/database/sighting-rows.js'
import {
  dateStep,
  finishStep,
  insertRead,
  insertSource,
  keepAccount,
  listReads,
} from '../../apps/workbench/src/database/sources.js'
import { restandCategory } from '../../apps/workbench/src/database/standings.js'
import type { JobId } from '../../apps/workbench/src/domain/ids.js'
import type { Source } from '../../apps/workbench/src/domain/source.js'

/** A source of a job that lies nowhere: what it shows is stored by hand. All are of one device. */
export async function insertMadeSource(
  db: Db,
  jobId: JobId,
  path: string,
  takenAt: Date,
  encrypted = false,
): Promise<Source> {
  const info = {
    kind: 'computer-backup' as const,
    layout: 'modern' as const,
    path,
    deviceName: 'phone',
    productType: null,
    osVersion: '17.0',
    uniqueId: 'made-phone',
    serialNumber: null,
    takenAt,
    encrypted,
    installedApps: [],
    complete: true,
  }
  const id = await insertSource(db, jobId, info, { bytes: 0, files: 0 })
  if (id === undefined) throw new Error(`the job has ${path} already`)
  return { id, jobId, path, info, takenAt, bytes: 0, files: 0, saidDevice: null, saidName: null }
}

/** Stores what a made source shows in one step, as the reader does; with how far its store could be read. */
export async function readMade(
  db: Db,
  source: Source,
  { category, pass }: ReadStep,
  sightings: readonly Sighting[],
  store: StoreState = 'whole',
): Promise<void> {
  const readId = await insertRead(db, source, [{ category, pass }])
  const step = (await listReads(db, source.jobId)).find((read) => read.id === readId)?.steps[0]
  if (!step) throw new Error('the read has a step')
  await dateStep(db, step.id, source.takenAt)
  const seen = sightings.map((sighting) => ({ sighting, content: 'none' as const }))
  const place = { jobId: source.jobId, sourceId: source.id, category, pass, first: 0 }
  if (seen.length > 0) await storeBatch(db, seen.map(prepare), place, step)
  const counts = { read: seen.length, rowsSkipped: 0, pagesSkipped: 0, content: { none: seen.length } }
  await keepAccount(db, step.id, { stores: { '': store }, ...counts })
  await restandCategory(db, source.jobId, category, source.id)
  await finishStep(db, step.id)
}
