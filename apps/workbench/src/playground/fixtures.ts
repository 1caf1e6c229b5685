import type { JobAnswer } from '../domain/answer'
import type { BayDevice } from '../domain/bay'
import type { FindingLine } from '../domain/finding'
import type { Handover, HandoverState } from '../domain/handover'
import type { JobLine } from '../domain/job-queue'
import { JOB_STAGES } from '../domain/job-stages'
import type { ReadState } from '../domain/read-states'
import type { Read, Source } from '../domain/source'
import type { Wire } from '../domain/wire'

/* Made-up values in the shapes of the contracts, for the playground and its test. */

const AT = '2026-11-14T20:15:00.000Z'

export const source: Wire<Source> = {
  id: 1 as never,
  jobId: 1 as never,
  path: '/backups/odile',
  info: {
    kind: 'computer-backup',
    layout: 'modern',
    path: '/backups/odile',
    deviceName: 'Odile’s phone',
    productType: 'iPhone14,5',
    osVersion: '17.6.1',
    uniqueId: '00008110-0007A5C22E8B401E',
    serialNumber: null,
    encrypted: false,
    installedApps: [],
    complete: true,
  },
  takenAt: AT,
  bytes: 18_500_000,
  files: 726,
  saidDevice: null,
  saidName: null,
}

const account = {
  stores: { '': 'damaged' },
  read: 1900,
  rowsSkipped: 12,
  pagesSkipped: 2,
  content: { present: 180, lost: 7 },
} as const

export function readIn(state: ReadState): Wire<Read> {
  const ended = ['done', 'gaps', 'failed'].includes(state)
  return {
    id: 1 as never,
    jobId: 1 as never,
    sourceId: 1 as never,
    state,
    mode: 'read',
    enough: null,
    waitsFor: state === 'away' ? 'The folder /backups/odile is not there.' : null,
    queuedAt: AT,
    startedAt: state === 'queued' ? null : AT,
    endedAt: ended ? AT : null,
    error: state === 'failed' ? 'The disk is full.' : null,
    warnings: state === 'gaps' ? [{ code: 'library-line', message: '3 lines are damaged.' }] : [],
    fetching: state === 'running' ? { what: 'Photos', items: 120, bytes: 9e6, bytesTotal: 33e6 } : null,
    steps: [
      {
        id: 1,
        position: 0,
        category: 'photos',
        pass: 'live',
        done: 180,
        finished: true,
        account: state === 'gaps' ? account : { ...account, stores: { '': 'whole' }, rowsSkipped: 0, pagesSkipped: 0 },
      },
      { id: 2, position: 1, category: 'messages', pass: 'residue', done: 412, finished: ended, account: null },
    ],
  }
}

export const handoverIn = (state: HandoverState): Wire<Handover> => ({
  id: 1 as never,
  jobId: 1 as never,
  kind: 'folder',
  destination: '/handovers/2026-0001',
  state,
  done: state === 'running' ? 40 : 219,
  total: 219,
  doneBytes: state === 'running' ? 8_000_000 : 44_000_000,
  totalBytes: 44_000_000,
  options: { formats: {}, duplicates: 'once' },
  summary:
    state === 'done'
      ? {
          path: '/handovers/2026-0001',
          items: 217,
          missed: 2,
          files: 231,
          bytes: 44_000_000,
          counts: { messages: { rebuilt: 217 } },
          problems: ['IMG_1003.HEIC: the content could not be read whole.'],
          second: { path: '/media/stick/2026-0001', why: null },
        }
      : null,
  error: state === 'failed' ? 'The folder is not there any more.' : null,
  createdAt: AT,
  endedAt: state === 'running' ? null : AT,
})

export const finding = (part: Partial<FindingLine> = {}): FindingLine => ({
  id: 7 as never,
  category: 'messages',
  standing: 'rebuilt',
  when: AT,
  title: 'Bram Okafor',
  text: 'Cut the trap door to 63 cm × 11 cm please, not a finger more.',
  conversation: '',
  bytes: 62,
  inTray: false,
  fields: {},
  hasContent: false,
  contentState: 'none',
  mime: null,
  matchScore: 90,
  binnedAt: null,
  ...part,
})

const ROUTE: JobAnswer['route'] = {
  steps: [
    {
      rule: 'known-backup',
      do: 'Add the backup “Odile’s phone” of 2026-10-03 from this computer.',
      why: 'It is from before the loss, and lies on this computer.',
      likelihood: 'likely',
      cost: 'a minute; nothing is changed',
      daysLeft: null,
      sourceId: null,
      action: { kind: 'add-backup', path: '/backups/odile', locked: false },
    },
    {
      rule: 'device-bin',
      do: 'Look into the bins on the device.',
      why: 'Bins keep things about 30 days.',
      likelihood: 'possible',
      cost: 'minutes on the device, no risk',
      daysLeft: 14,
      sourceId: null,
      action: { kind: 'bay' },
    },
  ],
  answer: { answer: 'found', why: '219 matching items are gone from the device.', gaps: [], lookedThrough: [] },
  matching: {
    binned: 0,
    leastDaysLeft: null,
    earlier: 0,
    rebuilt: 219,
    partial: 0,
    elsewhere: 0,
    withoutContent: 0,
  },
  newestSourceId: 1,
}

const MATCHES: JobAnswer['matches'] = [{ category: 'messages', count: 219, inTray: 0, best: [finding()] }]

/** The cases of an answer, by what each shows. */
export const ANSWERS: Record<string, JobAnswer> = {
  found: { route: ROUTE, matches: MATCHES, before: null },
  'found in part': {
    route: { ...ROUTE, answer: { ...ROUTE.answer, answer: 'found-in-part', why: 'Only parts can be had.' } },
    matches: MATCHES,
    before: null,
  },
  'not found so far': {
    route: {
      ...ROUTE,
      answer: { ...ROUTE.answer, answer: 'not-found-so-far', why: 'Not everything was looked through.' },
    },
    matches: [],
    before: null,
  },
  'not found': {
    route: { ...ROUTE, steps: [], answer: { ...ROUTE.answer, answer: 'not-found', why: 'All was looked through.' } },
    matches: [],
    before: null,
  },
  'there before the loss': {
    route: ROUTE,
    matches: [],
    before: { source: 'Odile’s phone', day: '2026-10-03', matches: MATCHES },
  },
}

export const jobs: Wire<JobLine>[] = JOB_STAGES.map((stage, i) => ({
  id: (i + 1) as never,
  number: `2026-000${i + 1}-PLAY`,
  owner: 'Odile Varga',
  contact: '+1 202 555 0199',
  device: 'her phone',
  sought: 'Looking for photos and messages.',
  stage,
  due: i === 0 ? '2026-11-30' : null,
  overdue: i === 0,
  keepUntil: '2026-12-31',
  createdAt: AT,
  sources: i,
  findings: i * 100,
  tray: i,
  handovers: 0,
}))

export const deviceIn = (state: BayDevice['state']): Wire<BayDevice> => ({
  udid: `0000-${state}`,
  state,
  name: 'Odile’s phone',
  productType: 'iPhone14,5',
  osVersion: '17.6.1',
  capacity: 128e9,
  free: 40e9,
  battery: 0.64,
  charging: true,
  encryptsBackups: false,
  theftLock: false,
  flightMode: false,
  serialNumber: 'LMB0042',
  timeZone: 'Europe/Lisbon',
  trustedAt: null,
})
