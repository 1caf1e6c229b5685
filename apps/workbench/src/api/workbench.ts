import { z } from 'zod'
import { bay } from '../domain/bay.js'
import { bayPlan, bayRules, bayRulesPage } from '../domain/bay-rules.js'
import { count } from '../domain/core-values.js'
import { folderList, packageCheck } from '../domain/handover.js'
import { sourceId } from '../domain/ids.js'
import { ownProfiles, profile, trial } from '../domain/profile.js'
import { settings } from '../domain/settings.js'
import { begun, type Contracts, file, json, nothing } from './contract.js'

const text = z.string().max(100_000)
const versionedSettings = z.strictObject({ settings, version: z.string() })

/** What belongs to no single job: the bay, handovers that were made, profiles, settings, who works. */
export const workbenchContracts = {
  'GET /api/activity': { summary: 'How many reads are at work', answer: json(z.strictObject({ reads: count })) },
  'GET /api/bay': { summary: 'Devices that are attached', answer: json(bay) },
  'GET /api/bay/rules': {
    summary: 'What is done by itself with devices that come',
    versioned: true,
    answer: json(bayRulesPage),
  },
  'PUT /api/bay/rules': {
    summary: 'Replaces the rules; what is on the cables already is left alone',
    versioned: true,
    body: bayRules,
    answer: json(bayRulesPage),
  },
  'POST /api/bay/rules/trial': {
    summary: 'What rules would do with each device that is on a cable now; nothing is done',
    body: bayRules,
    answer: json(z.array(bayPlan)),
  },
  'POST /api/bay/{udid}/trust': { summary: 'Asks a device for trust', answer: nothing },
  'POST /api/bay/{udid}/leave': { summary: 'Lets a device start the ordinary way', answer: nothing },
  'POST /api/bay/{udid}/install': {
    summary: 'Installs a system; `keep`: without erasing, else the name of the device confirms it',
    body: z.object({ image: z.string().min(1), keep: z.boolean(), name: z.string().optional() }),
    answer: begun,
  },
  'GET /api/folders': {
    summary: 'Folders below those in which handovers may be written',
    query: z.object({ path: z.string().optional() }),
    answer: json(folderList),
  },
  'POST /api/handovers/{handover}/check': { summary: 'Computes checksums anew', answer: json(packageCheck) },
  'POST /api/handovers/{handover}/open': { summary: 'Shows the package in the file manager', answer: nothing },
  'POST /api/handovers/{handover}/stop': { summary: 'Stops a handover', answer: nothing },
  'GET /api/handovers/{handover}/zip': {
    summary: 'The package as one file',
    secret: true,
    answer: file('application/zip'),
  },
  'GET /api/profiles': { summary: 'The mapping profiles of one’s own', answer: json(ownProfiles) },
  'PUT /api/profiles': { summary: 'Saves a mapping profile', body: z.object({ text }), answer: json(profile) },
  'DELETE /api/profiles/{profile}': { summary: 'Removes a mapping profile', answer: nothing },
  'POST /api/profiles/trial': {
    summary: 'Reads a source with a profile, without keeping anything',
    body: z.object({ text, source: sourceId }),
    answer: json(trial),
  },
  'GET /api/settings': { summary: 'The settings', versioned: true, answer: json(versionedSettings) },
  'PUT /api/settings': {
    summary: 'Replaces the settings',
    versioned: true,
    body: settings,
    answer: json(versionedSettings),
  },
  'GET /api/operators': {
    summary: 'Who works at this browser, and who is known from any log',
    answer: json(z.strictObject({ current: z.string(), known: z.array(z.string()) })),
  },
  'PUT /api/session': {
    summary: 'Says who works at this browser',
    body: z.object({ operator: z.string().trim().min(1).max(100) }),
    answer: nothing,
  },
  'DELETE /api/session': {
    summary: 'Ends the session of this browser, or of all',
    query: z.object({ all: z.stringbool().default(false) }),
    answer: nothing,
  },
} as const satisfies Contracts
