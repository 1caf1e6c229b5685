import { z } from 'zod'
import {
  fileListing,
  filePeek,
  integrityReport,
  integrityStep,
  pageFile,
  pageMap,
  pageView,
  sourceOverview,
} from '../domain/contents.js'
import { category, pass } from '../domain/core-values.js'
import { readId } from '../domain/ids.js'
import { lockState, removal, searchStep } from '../domain/source.js'
import { begun, type Contracts, created, file, json, lines, nothing } from './contract.js'
import { numberInAddress } from './parameters.js'

const place = z.object({ domain: z.string(), path: z.string().min(1) })
const queuedRead = created(z.strictObject({ id: readId }))

/** A source: its lock, its reads, its files and the pages of its databases. */
export const sourceContracts = {
  'GET /api/backups': {
    summary: 'Looks for backups in a folder, or in the usual ones',
    query: z.object({ folder: z.string().nullable().default(null) }),
    answer: lines(searchStep),
  },
  'GET /api/sources/{source}/lock': { summary: 'How the lock stands', answer: json(lockState) },
  'POST /api/sources/{source}/lock': {
    summary: 'Begins to open the lock with a password',
    body: z.object({
      password: z.string().min(1, 'Type the password of the backup.').max(4096),
      /** The job's other locked sources are tried with it too. */
      others: z.boolean().default(false),
    }),
    answer: begun,
  },
  'DELETE /api/sources/{source}/lock': { summary: 'Forgets the keys', answer: nothing },
  'POST /api/sources/{source}/device': {
    summary: 'Says of which device a source is; null: as it says itself',
    body: z.object({ key: z.string().min(1).max(190).nullable() }),
    answer: nothing,
  },
  'PUT /api/sources/{source}/name': {
    summary: 'Says what a source is called; an empty text: as it calls itself',
    body: z.object({ name: z.string().trim().max(200) }),
    answer: nothing,
  },
  'GET /api/sources/{source}/removal': { summary: 'What would go with a source', answer: json(removal) },
  'DELETE /api/sources/{source}': {
    summary: 'Takes a source out of its job, with all that it alone shows',
    answer: nothing,
  },
  'POST /api/sources/{source}/reads': {
    summary: 'Queues a read; `again`: what was read before is read anew; `enough`: of how many matches on it stops',
    body: z.object({
      categories: z.array(category).default([]),
      passes: z.array(pass).default([]),
      again: z.boolean().default(false),
      enough: z.number().int().min(1).max(1_000_000).nullable().default(null),
    }),
    answer: queuedRead,
  },
  'POST /api/sources/{source}/again': { summary: 'Tries again all that could not be had', answer: queuedRead },
  'POST /api/reads/{read}/{action}': { summary: 'Stops a read, or goes on with it', answer: nothing },
  'GET /api/sources/{source}/overview': {
    summary: 'What a source holds, before any read',
    answer: json(sourceOverview),
  },
  'GET /api/sources/{source}/files': {
    summary: 'Files of a folder, or those whose paths hold some words',
    query: z.object({
      domain: z.string().default(''),
      folder: z.string().default(''),
      words: z.string().max(200).default(''),
    }),
    answer: json(fileListing),
  },
  'GET /api/sources/{source}/files/content': { summary: 'A file', query: place, answer: file('*/*') },
  'GET /api/sources/{source}/files/peek': {
    summary: 'A file as the browser shows it; of a database, one table',
    query: place.extend({ table: z.string().optional() }),
    answer: json(filePeek),
  },
  'POST /api/sources/{source}/files/tray': { summary: 'Puts a file into the tray', body: place, answer: nothing },
  'GET /api/sources/{source}/pages': { summary: 'All pages of a database by use', query: place, answer: json(pageMap) },
  'GET /api/sources/{source}/pages/{page}': {
    summary: 'A page of a database, or another image of it in a log',
    query: place.extend({ file: pageFile.optional(), offset: numberInAddress.int().min(0).optional() }),
    answer: json(pageView),
  },
  'GET /api/sources/{source}/integrity': {
    summary: 'Checks every file of a source against its entry',
    answer: json(integrityReport),
  },
  'GET /api/sources/{source}/integrity/steps': {
    summary: 'The same check, with its progress',
    answer: lines(integrityStep),
  },
  'GET /api/sources/{source}/integrity/page': {
    summary: 'The same check as a page to keep',
    answer: file('text/html; charset=utf-8'),
  },
} as const satisfies Contracts
