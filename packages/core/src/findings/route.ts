import type { CategoryId } from '../categories/types.js'
import type { LossWindow } from './window.js'

/** A source of the job as far as the route depends on it. */
export interface RouteSource {
  id: number
  name: string
  /** The state of the device that it shows, in milliseconds. */
  takenAt: number | null
  encrypted: boolean
  /** Its password was not given yet, or was forgotten with the last start. */
  locked: boolean
  /** True once a live pass over what is sought was finished. */
  read: boolean
  /** True once a residue pass over what is sought was finished. */
  residueRead: boolean
}

/** What is known of the case: the brief, and what the job's sources gave so far. */
export interface RouteFacts {
  now: number
  categories: readonly CategoryId[]
  lost: LossWindow | null
  device: 'in use' | 'put aside' | 'locked' | 'does not start' | 'erased' | 'not here'
  /** The owner let the cloud keep copies; null: not known. */
  syncing: boolean | null
  sources: readonly RouteSource[]
  /** Findings that match the brief, by standing. */
  matching: { binned: number; leastDaysLeft: number | null; earlier: number; rebuilt: number; partial: number }
}

export type Likelihood = 'likely' | 'possible' | 'unlikely' | 'none'

/** One step that can be taken, with all that is needed to decide for it. */
export interface RouteStep {
  rule: string
  /** What to do, as an instruction. */
  do: string
  why: string
  likelihood: Likelihood
  /** Time and risk in words. */
  cost: string
  /** Days until it stops being possible; null: it does not run out by itself. */
  daysLeft: number | null
  sourceId: number | null
}

interface Rule {
  id: string
  /** Lower comes first. */
  rank: number
  steps(facts: RouteFacts): Omit<RouteStep, 'rule'>[]
}

// How long bins keep things (common practice, no published source).
const BIN_DAYS = 30
const DAY_MS = 86_400_000
/** Kinds of item that live in the rows of a database, which leave leftovers. */
const IN_FILES: readonly CategoryId[] = [
  'photos',
  'voice-memos',
  'message-attachments',
  'chat-attachments',
  'note-attachments',
  'other-files',
]

const step = (
  part: Partial<RouteStep> & Pick<RouteStep, 'do' | 'why' | 'likelihood' | 'cost'>,
): Omit<RouteStep, 'rule'> => ({
  daysLeft: null,
  sourceId: null,
  ...part,
})
const day = (at: number) => new Date(at).toISOString().slice(0, 10)
const deviceReadable = ({ device }: RouteFacts) => device !== 'erased' && device !== 'not here'
const inRows = ({ categories }: RouteFacts) =>
  categories.length === 0 || categories.some((id) => !IN_FILES.includes(id))
const onlyFiles = ({ categories }: RouteFacts) =>
  categories.length > 0 && categories.every((id) => IN_FILES.includes(id))
/** Days since the latest moment at which the loss can have happened. */
const sinceLoss = ({ lost, now }: RouteFacts) =>
  lost?.to == null && lost?.from == null ? null : Math.floor((now - (lost.to ?? lost.from ?? now)) / DAY_MS)
const firstLoss = ({ lost }: RouteFacts) => lost?.from ?? lost?.to ?? null
const beforeLoss = (facts: RouteFacts) => {
  const loss = firstLoss(facts)
  return loss === null
    ? []
    : facts.sources
        .filter(({ takenAt }) => takenAt !== null && takenAt <= loss + DAY_MS)
        .sort((a, b) => (b.takenAt ?? 0) - (a.takenAt ?? 0))
}

/** The rules of the route, as data: each looks at the facts and proposes steps, or none. */
export const ROUTE_RULES: readonly Rule[] = [
  {
    id: 'preserve',
    rank: 0,
    steps: (facts) =>
      facts.device === 'in use'
        ? [
            step({
              do: 'Stop using the device: flight mode on, no sync program running.',
              why: 'Deleted rows stay until new data is written over them, and sync programs rewrite backups.',
              likelihood: 'likely',
              cost: 'a minute, no risk',
            }),
          ]
        : [],
  },
  {
    id: 'found-in-bin',
    rank: 1,
    steps: ({ matching }) =>
      matching.binned > 0
        ? [
            step({
              do: `Hand over the ${matching.binned} matching items that lie in a bin, or restore them on the device.`,
              why: 'They are whole, and nothing else needs to be touched.',
              likelihood: 'likely',
              cost: 'minutes, no risk',
              daysLeft: matching.leastDaysLeft,
            }),
          ]
        : [],
  },
  {
    id: 'device-bin',
    rank: 2,
    steps: (facts) => {
      const since = sinceLoss(facts)
      if (!deviceReadable(facts) || facts.device === 'does not start' || since === null || since > BIN_DAYS + 10)
        return []
      return [
        step({
          do: 'Look into the bins on the device: photos, messages, notes and recordings deleted lately.',
          why: `Bins keep things about ${BIN_DAYS} days, and the loss is ${Math.max(0, since)} days ago.`,
          likelihood: since <= BIN_DAYS ? 'likely' : 'possible',
          cost: 'minutes on the device, no risk',
          daysLeft: Math.max(0, BIN_DAYS - Math.max(0, since)),
        }),
      ]
    },
  },
  {
    id: 'cloud-bin',
    rank: 3,
    steps: (facts) => {
      const since = sinceLoss(facts)
      if (facts.syncing === false || since === null || since > BIN_DAYS + 10) return []
      return [
        step({
          do: 'Look into the cloud account: its bin of photos, files deleted lately, archives of contacts and calendars.',
          why: facts.syncing
            ? 'The owner lets the cloud keep copies.'
            : 'Whether the cloud keeps copies is not known; if it does, its bin holds them about 30 days.',
          likelihood: facts.syncing ? 'likely' : 'possible',
          cost: 'minutes; needs the account and its second factor',
          daysLeft: Math.max(0, BIN_DAYS - Math.max(0, since)),
        }),
      ]
    },
  },
  {
    id: 'unlock-before-loss',
    rank: 4,
    steps: (facts) =>
      beforeLoss(facts)
        .filter((source) => source.locked && !source.read)
        .map((source) =>
          step({
            do: `Ask for the password of “${source.name}” of ${day(source.takenAt as number)} and read it.`,
            why: 'It shows the device before the loss.',
            likelihood: 'likely',
            cost: 'the owner’s time; nothing is changed',
            sourceId: source.id,
          }),
        ),
  },
  {
    id: 'newest-before-loss',
    rank: 5,
    steps: (facts) => {
      const [newest] = beforeLoss(facts).filter((source) => !source.locked || source.read)
      if (!newest) return []
      const found = facts.matching.earlier > 0
      if (newest.read && !found) return []
      const at = day(newest.takenAt as number)
      return [
        step({
          do: newest.read
            ? `Hand over the ${facts.matching.earlier} matching items that “${newest.name}” of ${at} and older sources still have.`
            : `Read “${newest.name}” of ${at}.`,
          why: 'It is the newest source from before the loss: whatever was made before it and lost after it is whole there.',
          likelihood: 'likely',
          cost: newest.read ? 'minutes, no risk' : 'minutes to an hour; nothing is changed',
          sourceId: newest.id,
        }),
      ]
    },
  },
  {
    id: 'no-source-before-loss',
    rank: 6,
    steps: (facts) =>
      firstLoss(facts) !== null && beforeLoss(facts).length === 0
        ? [
            step({
              do: 'Ask for an older backup: other computers, old disks, the cloud.',
              why: 'No source of this job is older than the loss, so none can hold the items whole.',
              likelihood: 'possible',
              cost: 'the owner’s time',
            }),
          ]
        : [],
  },
  {
    id: 'residue-after-loss',
    rank: 7,
    steps: (facts) =>
      inRows(facts)
        ? facts.sources
            .filter((source) => !beforeLoss(facts).includes(source) && !source.residueRead)
            .map((source) =>
              step({
                do: `Read the leftovers of “${source.name}”${source.takenAt === null ? '' : ` of ${day(source.takenAt)}`}.`,
                why: 'It is from after the loss: only rows that were not yet written over can be there.',
                likelihood: 'possible',
                cost: 'minutes; nothing is changed',
                sourceId: source.id,
              }),
            )
        : [],
  },
  {
    id: 'rebuilt-found',
    rank: 8,
    steps: ({ matching }) =>
      matching.rebuilt + matching.partial > 0
        ? [
            step({
              do: `Check the ${matching.rebuilt} rebuilt and ${matching.partial} partial items that match, and hand over what the owner recognises.`,
              why: 'They come from leftovers: whole ones read as they were, partial ones lack something.',
              likelihood: 'likely',
              cost: 'the time to look at them',
            }),
          ]
        : [],
  },
  {
    id: 'read-device',
    rank: 9,
    steps: (facts) => {
      if (facts.device === 'locked')
        return [
          step({
            do: 'Attach the device to a computer that it trusted before, or have its owner unlock it.',
            why: 'A locked device answers only where it trusted the computer before its last start.',
            likelihood: 'possible',
            cost: 'needs that computer or the passcode',
          }),
        ]
      if (facts.device === 'does not start')
        return [
          step({
            do: 'Bring the device to start again without erasing, then read it.',
            why: 'Its content is encrypted with keys that only the device has.',
            likelihood: 'possible',
            cost: 'an hour; reinstalling the system with data kept carries some risk',
          }),
        ]
      return []
    },
  },
  {
    id: 'media-cannot-be-rebuilt',
    rank: 10,
    steps: (facts) =>
      onlyFiles(facts) && deviceReadable(facts)
        ? [
            step({
              do: 'Look for surviving copies: attachments, other applications, small previews.',
              why: 'The files themselves cannot be rebuilt from an encrypted flash: their keys go with them. Copies may live on elsewhere.',
              likelihood: 'possible',
              cost: 'minutes; copies may be smaller than the original',
            }),
          ]
        : [],
  },
  {
    id: 'erased',
    rank: 11,
    steps: ({ device }) =>
      device === 'erased'
        ? [
            step({
              do: 'Do not read the device for leftovers; go by backups and the cloud alone.',
              why: 'It was erased, and its keys are gone with that: nothing of before can be read from it.',
              likelihood: 'none',
              cost: 'none',
            }),
          ]
        : [],
  },
  {
    id: 'full-restore-last',
    rank: 20,
    steps: (facts) => {
      const [newest] = beforeLoss(facts)
      return newest
        ? [
            step({
              do: `Only if nothing else serves: a full restore of “${newest.name}” of ${day(newest.takenAt as number)} onto the device.`,
              why: 'It brings back the state of that day, and wipes everything since. Look at the restore cost first.',
              likelihood: 'likely',
              cost: 'hours; everything newer on the device is lost',
              sourceId: newest.id,
            }),
          ]
        : []
    },
  },
]

/** The next steps, the best first: cheap and running out before slow and risky, a full restore last. */
export function routeOf(facts: RouteFacts): RouteStep[] {
  return [...ROUTE_RULES]
    .sort((a, b) => a.rank - b.rank)
    .flatMap((rule) => rule.steps(facts).map((one) => ({ rule: rule.id, ...one })))
}
