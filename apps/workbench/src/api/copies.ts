import { z } from 'zod'
import { copiesPage, copyDifference, copyName, copyWork, placeContents } from '../domain/copies.js'
import { copyPlaceId, copyTaskId } from '../domain/ids.js'
import { type Contracts, created, json, nothing } from './contract.js'

/** Safe copies: where they lie, and what is done with them. */
export const copyContracts = {
  'GET /api/copies': {
    summary: 'The places of safe copies that are known, and the latest work in them',
    answer: json(copiesPage),
  },
  'POST /api/copies/places': {
    summary: 'Adds a place of safe copies; an empty or new folder becomes one',
    body: z.object({ folder: z.string().trim().min(1, 'Name a folder.').max(1000) }),
    answer: created(z.strictObject({ id: copyPlaceId })),
  },
  'GET /api/copies/places/{place}': {
    summary: 'The copies in a place, with what each changed',
    answer: json(placeContents),
  },
  'GET /api/copies/places/{place}/difference': {
    summary: 'What came, changed and went from one copy to another',
    query: z.object({ from: copyName, to: copyName }),
    answer: json(copyDifference),
  },
  'DELETE /api/copies/places/{place}': {
    summary: 'Forgets a place; its copies stay where they are',
    answer: nothing,
  },
  'POST /api/copies/places/{place}/tasks': {
    summary: 'Makes a copy of a source, checks copies, or removes some',
    body: copyWork,
    answer: created(z.strictObject({ id: copyTaskId })),
  },
  'POST /api/copies/tasks/{task}/stop': { summary: 'Stops what is done in a place', answer: nothing },
} as const satisfies Contracts
