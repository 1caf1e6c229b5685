import type { Db } from '../database/connection.js'
import { jobDevices } from '../database/states.js'
import type { JobId } from '../domain/ids.js'
import type { JobSources } from '../domain/source.js'
import { trayWindows } from './windows.js'

/** The sources of a job, the devices that they are of, and when what is in the tray went. */
export async function jobSourcesOf(db: Db, jobId: JobId): Promise<JobSources> {
  const [{ sources, devices }, windows] = await Promise.all([jobDevices(db, jobId), trayWindows(db, jobId)])
  return { sources, devices, windows }
}
