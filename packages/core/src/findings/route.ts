import type { CategoryId } from '../categories/types.js'
import type { RouteFacts, RouteSource, RouteStep } from './route-facts.js'

/** One rule: where it speaks, it proposes steps. */
export interface Rule {
  id: string
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
const named = ({ name, takenAt }: RouteSource) => `“${name}”${takenAt === null ? '' : ` of ${day(takenAt)}`}`
const counted = (count: number) => (count === 1 ? 'the one matching item' : `the ${count} matching items`)
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

/** Sources from between the dates of the loss, the newest first. */
const withinLoss = (facts: RouteFacts) => {
  const { from, to } = facts.lost ?? { from: null, to: null }
  if (from === null) return []
  return facts.sources
    .filter(({ takenAt }) => takenAt !== null && takenAt > from + DAY_MS && takenAt <= (to ?? facts.now))
    .sort((a, b) => (b.takenAt ?? 0) - (a.takenAt ?? 0))
}

/** The rules of the route, in their order: each looks at the facts and proposes steps, or none. */
export const ROUTE_RULES: readonly Rule[] = [
  {
    id: 'preserve',
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
    steps: ({ matching }) =>
      matching.binned > 0
        ? [
            step({
              do: `Hand over ${counted(matching.binned)} in a bin, or restore them on the device.`,
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
    id: 'earlier-found',
    steps: ({ matching }) =>
      matching.earlier > 0
        ? [
            step({
              do: `Hand over ${counted(matching.earlier)} that older sources of this job still have whole.`,
              why: 'They are gone from the newest source, and nothing needs to be rebuilt.',
              likelihood: 'likely',
              cost: 'minutes, no risk',
            }),
          ]
        : [],
  },
  {
    id: 'unlock-older',
    steps: (facts) =>
      [...beforeLoss(facts), ...withinLoss(facts)]
        .filter((source) => source.locked && !source.read)
        .map((source) =>
          step({
            do: `Ask for the password of ${named(source)} and read it.`,
            why: 'It shows the device before the loss was over.',
            likelihood: 'likely',
            cost: 'the owner’s time; nothing is changed',
            sourceId: source.id,
          }),
        ),
  },
  {
    id: 'newest-before-loss',
    steps: (facts) =>
      beforeLoss(facts)
        .filter((source) => !source.locked && !source.read)
        .slice(0, 1)
        .map((source) =>
          step({
            do: `Read ${named(source)}.`,
            why: 'It is the newest from before the loss: whatever was made before it and lost after it is whole there.',
            likelihood: 'likely',
            cost: 'minutes to an hour; nothing is changed',
            sourceId: source.id,
          }),
        ),
  },
  {
    id: 'within-loss',
    steps: (facts) =>
      withinLoss(facts)
        .filter((source) => !source.locked && !source.read)
        .map((source) =>
          step({
            do: `Read ${named(source)}.`,
            why: 'It is from between the two dates of the loss: what went after that day is whole there.',
            likelihood: 'possible',
            cost: 'minutes to an hour; nothing is changed',
            sourceId: source.id,
          }),
        ),
  },
  {
    id: 'no-source-before-loss',
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
    steps: (facts) =>
      inRows(facts)
        ? facts.sources
            .filter((source) => !beforeLoss(facts).includes(source) && !source.residueRead && !source.locked)
            .map((source) =>
              step({
                do: `Read the leftovers of ${named(source)}.`,
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
    steps: ({ matching }) =>
      matching.rebuilt + matching.partial > 0
        ? [
            step({
              do: `Check the matching items from leftovers (${matching.rebuilt} whole, ${matching.partial} in part), and hand over what the owner recognises.`,
              why: 'They come from leftovers: whole ones read as they were, partial ones lack something.',
              likelihood: 'likely',
              cost: 'the time to look at them',
            }),
          ]
        : [],
  },
  {
    id: 'read-device',
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
    steps: (facts) => {
      const [newest] = beforeLoss(facts)
      return newest
        ? [
            step({
              do: `Only if nothing else serves: a full restore of ${named(newest)} onto the device.`,
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
  return ROUTE_RULES.flatMap((rule) => rule.steps(facts).map((one) => ({ rule: rule.id, ...one })))
}
