import { z } from 'zod'
import { MATCH_KINDS } from '../domain/answer.js'
import { category } from '../domain/core-values.js'
import { filter } from '../domain/filter.js'
import {
  conversationLine,
  copy,
  dayLine,
  explainedFinding,
  facets,
  findingLine,
  points,
  suggestions,
  timeline,
  triedAgain,
} from '../domain/finding.js'
import { findingId } from '../domain/ids.js'
import { note, noteText } from '../domain/note.js'
import { person, personName } from '../domain/person.js'
import { month } from '../domain/time.js'
import { trayChange } from '../domain/tray.js'
import { type Contracts, file, json, nothing } from './contract.js'
import { numberInAddress } from './parameters.js'

/** Keyset pagination: a page begins behind the last line of the one before. */
const page = filter.extend({
  afterId: numberInAddress.int().positive().optional(),
  afterWhen: z.iso.datetime().nullable().default(null),
  afterScore: numberInAddress.int().min(0).max(100).default(0),
  afterTitle: z.string().max(500).default(''),
  afterBytes: numberInAddress.int().min(0).default(0),
})

const ids = z.array(findingId).max(10_000)
const ofPerson = z.strictObject({ name: personName, lost: z.boolean(), category: category.nullable() })
/** The address of a Findings view: all that it shows. */
const view = z.string().max(2000)

/** Findings of a job, one finding, and the tray. */
export const findingContracts = {
  'GET /api/jobs/{job}/findings': { summary: 'A page of findings', query: page, answer: json(z.array(findingLine)) },
  'GET /api/jobs/{job}/facets': {
    summary: 'Counts by category and standing of what holds these words',
    query: filter.pick({ words: true }),
    answer: json(facets),
  },
  'GET /api/jobs/{job}/conversations': {
    summary: 'Conversations with their counts',
    query: filter,
    answer: json(z.array(conversationLine)),
  },
  'GET /api/jobs/{job}/timeline': { summary: 'Counts over time', query: filter, answer: json(timeline) },
  'GET /api/jobs/{job}/points': { summary: 'Findings that know their place', query: filter, answer: json(points) },
  'GET /api/jobs/{job}/days': {
    summary: 'The days of a month with what they hold',
    query: filter.extend({ month }),
    answer: json(z.array(dayLine)),
  },
  'GET /api/jobs/{job}/suggestions': {
    summary: 'What a search of a category may ask for',
    query: z.object({ category }),
    answer: json(suggestions),
  },
  'GET /api/jobs/{job}/stacks': {
    summary: 'Which pictures look the same: a picture, and the first one that looks like it',
    answer: json(z.array(z.tuple([findingId, findingId]))),
  },
  'GET /api/jobs/{job}/person': {
    summary: 'Everything with one person, counted by category',
    query: z.object({ name: personName }),
    answer: json(person),
  },
  'GET /api/jobs/{job}/person/findings': {
    summary: 'A page of everything with one person, the newest first',
    query: z.object({
      name: personName,
      /** True: only what is gone from the device. */
      lost: z.stringbool().default(false),
      category: category.nullable().default(null),
      afterId: numberInAddress.int().positive().optional(),
      afterWhen: z.iso.datetime().nullable().default(null),
    }),
    answer: json(z.array(findingLine)),
  },
  'GET /api/jobs/{job}/notes': { summary: 'What was noted to findings', answer: json(z.array(note)) },
  'POST /api/jobs/{job}/tray': {
    summary: 'Puts findings into the tray or takes them out; null: an earlier change was undone',
    body: z.union([
      z.strictObject({ add: ids }),
      z.strictObject({ remove: ids }),
      z.strictObject({ removeCategory: category }),
      /** All that matches the brief, over all categories. */
      z.strictObject({ addMatches: z.enum(MATCH_KINDS) }),
      z.strictObject({ addMatching: view }),
      z.strictObject({ removeMatching: view }),
      /** All with a person, or what of it is gone from the device. */
      z.strictObject({ addPerson: ofPerson }),
      /** The step of an earlier change. */
      z.strictObject({ undo: z.uuid() }),
    ]),
    answer: json(trayChange.nullable()),
  },
  'GET /api/findings/{finding}': { summary: 'Everything that is known of a finding', answer: json(explainedFinding) },
  'PUT /api/findings/{finding}/note': {
    summary: 'Notes something to a finding; an empty text takes the note away',
    body: z.object({ text: noteText }),
    answer: nothing,
  },
  'GET /api/findings/{finding}/copies': { summary: 'Surviving copies of a picture', answer: json(z.array(copy)) },
  'GET /api/findings/{finding}/content': {
    summary: 'The content; parts of it by Range (RFC 9110, section 14)',
    answer: file('*/*'),
  },
  'GET /api/findings/{finding}/attachments/{index}': { summary: 'An attachment, counted from 1', answer: file('*/*') },
  'GET /api/findings/{finding}/thumbnail': {
    summary: 'A small picture, whatever format the original has; `large` fills a window',
    query: z.object({ size: z.enum(['tile', 'large']).default('tile') }),
    answer: file('image/webp'),
  },
  'POST /api/findings/{finding}/again': {
    summary: 'Looks once more for contents that could not be had',
    answer: json(triedAgain),
  },
  'POST /api/findings/{finding}/join': {
    summary: 'Makes two findings one',
    body: z.object({ other: findingId }),
    answer: nothing,
  },
  'POST /api/findings/{finding}/secret': {
    summary: 'Shows a saved password; the log says so',
    secret: true,
    answer: json(z.strictObject({ secret: z.string() })),
  },
  'POST /api/sightings/{sighting}/split': {
    summary: 'Makes a finding of its own from a sighting',
    answer: json(z.strictObject({ id: findingId })),
  },
} as const satisfies Contracts
