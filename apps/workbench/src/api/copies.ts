import { z } from 'zod'
import { copiesPage, copyAsked, copyDifference, copyName, placeContents, regularCopyAsked } from '../domain/copies.js'
import { copyPlaceId, copyTaskId, regularCopyId } from '../domain/ids.js'
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
    summary: 'Makes a copy of a source or of an attached device, checks copies, removes some, or moves the place',
    body: copyAsked,
    answer: created(z.strictObject({ id: copyTaskId })),
  },
  'POST /api/copies/places/{place}/regular': {
    summary: 'Lets a device be copied into a place again and again, as soon as it is attached once it is time',
    body: regularCopyAsked,
    answer: created(z.strictObject({ id: regularCopyId })),
  },
  'DELETE /api/copies/regular/{regular}': {
    summary: 'Ends the regular copies of a device; those that were made stay',
    answer: nothing,
  },
  'POST /api/copies/tasks/{task}/stop': { summary: 'Stops what is done in a place', answer: nothing },
} as const satisfies Contracts
