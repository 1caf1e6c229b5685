import { database } from '../database/connection.js'
import { jobProgress } from '../services/progress.js'
import { JobEvents } from './events.js'

/** The events of all jobs; one for the whole server, so that each job is asked about once for all who listen. */
export const jobEvents = new JobEvents(async (job) => JSON.stringify(await jobProgress(database(), job)))
