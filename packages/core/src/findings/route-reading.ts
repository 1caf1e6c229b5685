import type { RouteFacts, RouteSource } from './route-facts.js'
import { firstLoss, isBeforeLoss, isWithinLoss, missed, named, type Rule, step, usable } from './route-step.js'

/** A rule with a step for each source of some kind. */
const forEach = (
  id: string,
  sources: (facts: RouteFacts) => RouteSource[],
  words: (source: RouteSource, facts: RouteFacts) => Omit<Parameters<typeof step>[0], 'sourceId'>,
): Rule => ({
  id,
  steps: (facts) => sources(facts).map((source) => step({ ...words(source, facts), sourceId: source.id })),
})

/** What is there to be read now. */
const unread = (facts: RouteFacts) =>
  usable(facts).filter(({ read, locked, busy, away }) => !read && !locked && !busy && away === null)

/** Rules about the sources of the job. */
export const READ_RULES: readonly Rule[] = [
  {
    id: 'preserve',
    steps: (facts) =>
      facts.device === 'in-use'
        ? [
            step({
              do: 'Stop using the device: flight mode on, no sync program running.',
              why: 'Deleted rows stay until new data is written over them, and sync programs rewrite backups.',
              likelihood: 'likely',
              cost: 'a minute, no risk',
              action: { kind: 'by-hand' },
            }),
          ]
        : [],
  },
  forEach(
    'away',
    (facts) => usable(facts).filter(({ away }) => away !== null),
    (source, facts) => ({
      do: `Bring ${named(facts, source)} back.`,
      why: `Its read waits: ${source.away} It goes on by itself once the source is there again.`,
      likelihood: 'likely',
      cost: 'minutes; nothing is read twice',
      action: { kind: 'retry', sourceId: source.id },
    }),
  ),
  forEach(
    'gaps',
    (facts) => usable(facts).filter(({ gaps, away, busy, locked }) => gaps > 0 && away === null && !busy && !locked),
    (source, facts) => ({
      do: `Try again what is missing of ${named(facts, source)}.`,
      why: `${missed(source.gaps)}.`,
      likelihood: 'possible',
      cost: 'minutes; nothing is stored twice',
      action: { kind: 'retry', sourceId: source.id },
    }),
  ),
  forEach(
    'unlock',
    (facts) =>
      usable(facts).filter(
        (source) => source.locked && !source.read && (isBeforeLoss(facts, source) || isWithinLoss(facts, source)),
      ),
    (source, facts) => ({
      do: `Ask for the password of ${named(facts, source)} and read it.`,
      why:
        firstLoss(facts) === null
          ? 'It is not read yet, and what was lost may be whole there.'
          : 'It shows a state from before the loss was over.',
      likelihood: 'likely',
      cost: 'the owner’s time; nothing is changed',
      action: { kind: 'unlock', sourceId: source.id },
    }),
  ),
  forEach(
    'newest-before-loss',
    (facts) =>
      unread(facts)
        .filter((source) => source.ofBriefDevice && isBeforeLoss(facts, source))
        .slice(0, 1),
    (source, facts) => ({
      do: `Read ${named(facts, source)}.`,
      why:
        firstLoss(facts) === null
          ? 'It is the newest that is not read yet; of when the loss was the brief says nothing.'
          : 'Of what is from before the loss it is the newest: what was lost after it is whole there.',
      likelihood: 'likely',
      cost: 'minutes to an hour; nothing is changed',
      action: { kind: 'read', sourceId: source.id },
    }),
  ),
  forEach(
    'within-loss',
    (facts) => unread(facts).filter((source) => source.ofBriefDevice && isWithinLoss(facts, source)),
    (source, facts) => ({
      do: `Read ${named(facts, source)}.`,
      why: 'It is from between the two dates of the loss: what went after that day is whole there.',
      likelihood: 'possible',
      cost: 'minutes to an hour; nothing is changed',
      action: { kind: 'read', sourceId: source.id },
    }),
  ),
  forEach(
    'leftovers',
    (facts) =>
      usable(facts).filter(
        (source) =>
          !source.residueRead &&
          !source.locked &&
          !source.busy &&
          source.away === null &&
          // A source that is still to be read is read with its leftovers.
          (source.read || (source.ofBriefDevice && !isBeforeLoss(facts, source) && !isWithinLoss(facts, source))),
      ),
    (source, facts) => ({
      do: source.read
        ? `Read the leftovers of ${named(facts, source)}.`
        : `Read ${named(facts, source)} with its leftovers.`,
      why: 'Rows that were deleted stay in a database until they are written over.',
      likelihood: 'possible',
      cost: 'minutes; nothing is changed',
      action: { kind: 'read', sourceId: source.id },
    }),
  ),
  forEach(
    'read-others',
    (facts) => unread(facts).filter(({ ofBriefDevice }) => !ofBriefDevice),
    (source, facts) => ({
      do: `Read ${named(facts, source)}.`,
      why:
        source.kind === 'cloud-library'
          ? 'The account may hold what the device does not any more.'
          : 'It is of another device: what is sought may have been there too.',
      likelihood: 'possible',
      cost: 'minutes; nothing is changed',
      action: { kind: 'read', sourceId: source.id },
    }),
  ),
]
