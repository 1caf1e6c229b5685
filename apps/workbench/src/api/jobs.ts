import { z } from 'zod'
import { jobAnswer } from '../domain/answer.js'
import { returnEntry, returnPreview, returnTarget } from '../domain/bay.js'
import { brief } from '../domain/brief.js'
import { cloudState } from '../domain/cloud.js'
import { count } from '../domain/core-values.js'
import { destination, handoverOptions } from '../domain/handover.js'
import { handoverId, jobId, sourceId } from '../domain/ids.js'
import { logCheck, networkFolder, savedBrief, savedView } from '../domain/job.js'
import { jobLine } from '../domain/job-queue.js'
import { DEVICE_ROLES } from '../domain/labels.js'
import { jobProgress } from '../domain/progress.js'
import { jobRoute } from '../domain/route.js'
import { addedMany, jobSources } from '../domain/source.js'
import { type Contracts, created, events, file, json, nothing } from './contract.js'
import { numberInAddress } from './parameters.js'

const deviceKey = z.string().min(1).max(190)
const udid = z.string().min(1).max(64)
const views = z.array(savedView)
const addedSource = created(z.strictObject({ id: sourceId }))

/** A job with its brief, its devices, its sources and what leaves it. */
export const jobContracts = {
  'GET /api/jobs': { summary: 'All jobs, the most urgent first', answer: json(z.array(jobLine)) },
  'POST /api/jobs': {
    summary: 'Opens a job for a brief',
    body: brief,
    answer: created(z.strictObject({ id: jobId, number: z.string() })),
  },
  'GET /api/jobs/{job}/brief': { summary: 'The brief', versioned: true, answer: json(savedBrief) },
  'PUT /api/jobs/{job}/brief': {
    summary: 'Replaces the brief',
    versioned: true,
    body: brief,
    answer: json(savedBrief),
  },
  'GET /api/jobs/{job}/answer': {
    summary: 'How far the brief is answered, with the strongest matches and the way on',
    answer: json(jobAnswer),
  },
  'POST /api/jobs/{job}/route': {
    summary: 'The route and the answer, as they would be with a brief that is being written',
    body: brief,
    answer: json(jobRoute),
  },
  'POST /api/jobs/{job}/steps': {
    summary: 'Says that a step of the route was done by hand, or takes that back',
    body: z.object({ rule: z.string().min(1).max(60), done: z.boolean() }),
    answer: nothing,
  },
  'GET /api/jobs/{job}/events': {
    summary: 'What moves by itself in a job, whenever it does',
    answer: events(jobProgress),
  },
  'GET /api/jobs/{job}/sources': { summary: 'The sources and the devices of a job', answer: json(jobSources) },
  'POST /api/jobs/{job}/sources': {
    summary: 'Adds a backup by its folder, or a raw image by its path',
    body: z.object({ folder: z.string().trim().min(1, 'Name a folder.').max(1000) }),
    answer: addedSource,
  },
  'POST /api/jobs/{job}/sources/many': {
    summary: 'Adds many backups, tries a password on the locked ones, and queues reads of all in the order given',
    body: z.object({
      folders: z.array(z.string().trim().min(1).max(1000)).min(1, 'Choose a backup.').max(500),
      password: z.string().min(1).max(4096).nullable().default(null),
      read: z.boolean().default(false),
      /** Of how many matches on no more is read. */
      enough: z.number().int().min(1).max(1_000_000).nullable().default(null),
    }),
    answer: created(addedMany),
  },
  'POST /api/jobs/{job}/devices': { summary: 'Adds an attached device', body: z.object({ udid }), answer: addedSource },
  'POST /api/jobs/{job}/device-role': {
    summary: 'Says whose a device is, or that the brief is about it',
    body: z.object({ key: deviceKey, role: z.enum(DEVICE_ROLES) }),
    answer: nothing,
  },
  'GET /api/jobs/{job}/brought/{name}': {
    summary: 'Bytes of each file that was brought in so far, by its path',
    answer: json(z.record(z.string(), count)),
  },
  'PUT /api/jobs/{job}/brought/{name}': {
    summary: 'Brings in one file of a folder',
    query: z.object({ path: z.string().min(1).max(1000) }),
    body: 'file',
    answer: nothing,
  },
  'POST /api/jobs/{job}/brought/{name}': { summary: 'Adds a folder that was brought in', answer: addedSource },
  'GET /api/jobs/{job}/cloud': { summary: 'How the job stands to the cloud account', answer: json(cloudState) },
  'POST /api/jobs/{job}/cloud': {
    summary: 'Signs in with a password, then with the code that was sent',
    body: z.union([
      z.object({ account: z.string().trim().min(1).max(200), password: z.string().min(1).max(500) }),
      z.object({ code: z.string().trim().min(1).max(20) }),
    ]),
    answer: json(cloudState),
  },
  'DELETE /api/jobs/{job}/cloud': { summary: 'Signs out', answer: nothing },
  'POST /api/jobs/{job}/cloud/sources': {
    summary: 'Adds a snapshot, the archives of a moment, or the library',
    body: z.union([
      z.object({ snapshot: z.string().min(1).max(200) }),
      z.object({ archivesOf: z.coerce.date<string | Date>() }),
      z.object({ library: z.literal('now') }),
    ]),
    answer: addedSource,
  },
  'GET /api/jobs/{job}/differences': {
    summary: 'What two sources differ in, as a table for a spreadsheet',
    query: z.object({
      first: numberInAddress.int().positive(),
      second: numberInAddress.int().positive(),
      /** Every item, and not only their counts. */
      items: z.stringbool().default(false),
    }),
    answer: file('text/csv; charset=utf-8'),
  },
  'POST /api/jobs/{job}/handovers': {
    summary: 'Starts a handover of what lies in the tray',
    body: z.intersection(destination, handoverOptions.partial()),
    answer: created(z.strictObject({ id: handoverId })),
  },
  'GET /api/jobs/{job}/returns/targets': {
    summary: 'Attached devices of the owner that items may go back to',
    answer: json(z.array(returnTarget)),
  },
  'GET /api/jobs/{job}/returns': { summary: 'What went back to devices so far', answer: json(z.array(returnEntry)) },
  'GET /api/jobs/{job}/returns/preview': {
    summary: 'What a return of the tray to a device would do',
    query: z.object({ udid: z.string().min(1).max(200) }),
    answer: json(returnPreview),
  },
  'POST /api/jobs/{job}/returns': {
    summary: 'Returns the tray to a device; its name confirms it',
    body: z.object({ udid, confirmed: z.string().min(1).max(200) }),
    answer: json(z.strictObject({ count })),
  },
  'POST /api/jobs/{job}/returns/{return}/undo': { summary: 'Takes a return back', answer: nothing },
  'POST /api/jobs/{job}/share': {
    summary: 'Opens the job as a network folder',
    secret: true,
    answer: json(networkFolder),
  },
  'DELETE /api/jobs/{job}/share': { summary: 'Closes the network folder', answer: nothing },
  'GET /api/jobs/{job}/views': { summary: 'Views that were kept', answer: json(views) },
  'POST /api/jobs/{job}/views': {
    summary: 'Keeps a view under a name',
    body: z.object({
      name: z.string().trim().min(1, 'Give the view a name.').max(60),
      address: z.string().startsWith('?').max(1500),
    }),
    answer: json(views),
  },
  'DELETE /api/jobs/{job}/views': {
    summary: 'Forgets a view',
    body: z.object({ id: z.number().int().positive() }),
    answer: json(views),
  },
  'POST /api/jobs/{job}/purge': {
    summary: 'Removes the content of a job; its number confirms it',
    body: z.object({ number: z.string().max(20) }),
    answer: nothing,
  },
  'GET /api/log-check': { summary: 'Computes the logs of all jobs anew', answer: json(z.array(logCheck)) },
} as const satisfies Contracts
