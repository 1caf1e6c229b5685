import { DAY_MS } from './bin-days.js'
import type { KnownBackup, KnownSnapshot, RouteFacts } from './route-facts.js'
import {
  binDaysLeft,
  deviceReadable,
  firstLoss,
  isBeforeLoss,
  named,
  newestFirst,
  onlyFiles,
  type Rule,
  step,
  usable,
} from './route-step.js'

/** The device was read as it is now, so that its bins were looked into. */
const deviceWasRead = ({ sources }: RouteFacts) =>
  sources.some(({ kind, ofBriefDevice, read }) => kind === 'device' && ofBriefDevice && read)
/** An older backup is of another time of the device, or of another device: nothing that was lost lately is in it. */
const LONG_BEFORE_MS = 365 * DAY_MS
const isFromBefore = (facts: RouteFacts, one: KnownBackup | KnownSnapshot) =>
  isBeforeLoss(facts, one) && (one.takenAt ?? 0) > (firstLoss(facts) ?? 0) - LONG_BEFORE_MS

/** Of the backups that were not added, those of the job's devices: first those made in the year before the loss. */
function candidates<Backup extends KnownBackup | KnownSnapshot>(facts: RouteFacts, known: readonly Backup[]): Backup[] {
  // Where the job has no source yet, any of them may be the owner's.
  const mine = known.filter(({ ofJobDevice }) => ofJobDevice || facts.sources.length === 0).sort(newestFirst)
  const before = mine.filter((one) => isFromBefore(facts, one))
  return [...before, ...mine.filter((one) => !before.includes(one))].slice(0, MOST_PLACES)
}
const MOST_PLACES = 3

/** Rules about places beyond the sources of the job, and about the device itself. */
export const PLACE_RULES: readonly Rule[] = [
  {
    id: 'known-backup',
    steps: (facts) =>
      candidates(facts, facts.backups).map((one) =>
        step({
          do: `Add the backup ${named(facts, one)} from this computer.`,
          why:
            firstLoss(facts) !== null && isFromBefore(facts, one)
              ? 'It is from before the loss, and lies on this computer.'
              : 'It lies on this computer, and was not added yet.',
          likelihood: isFromBefore(facts, one) ? 'likely' : 'possible',
          cost: one.encrypted ? 'a minute; it is locked with a password' : 'a minute; nothing is changed',
          action: { kind: 'add-backup', path: one.path, locked: one.encrypted },
        }),
      ),
  },
  {
    id: 'known-device',
    steps: (facts) =>
      facts.devices.slice(0, MOST_PLACES).map((one) =>
        step({
          do: `Add “${one.name}”, which is attached.`,
          why: 'It can be read now, with its bins and what is left in its databases.',
          likelihood: 'possible',
          cost: 'a minute to add; minutes to hours to read',
          action: { kind: 'add-device', udid: one.udid },
        }),
      ),
  },
  {
    id: 'known-snapshot',
    steps: (facts) =>
      candidates(facts, facts.snapshots ?? []).map((one) =>
        step({
          do: `Add the cloud backup ${named(facts, one)}.`,
          why: 'The account that is signed in has it.',
          likelihood: isFromBefore(facts, one) ? 'likely' : 'possible',
          cost: 'minutes; it is downloaded as far as it is read',
          action: { kind: 'add-snapshot', id: one.id },
        }),
      ),
  },
  {
    id: 'device-bin',
    steps: (facts) => {
      const left = binDaysLeft(facts)
      if (left === null || !deviceReadable(facts) || facts.device === 'does-not-start' || deviceWasRead(facts))
        return []
      return [
        step({
          do: 'Look into the bins on the device: photos, messages, notes and recordings deleted lately.',
          why: 'Bins keep things about 30 days. Attach the device to read them, or look with its owner.',
          likelihood: left > 0 ? 'likely' : 'possible',
          cost: 'minutes on the device, no risk',
          daysLeft: left,
          action: { kind: 'bay' },
        }),
      ]
    },
  },
  {
    id: 'cloud-account',
    steps: (facts) => {
      if (facts.syncing === false || facts.hasLibrary) return []
      const left = binDaysLeft(facts)
      return [
        step({
          do: 'Look into the cloud account: its backups, its bin of photos and files, archives of contacts and calendars.',
          why: facts.syncing
            ? 'The owner lets the cloud keep copies.'
            : 'Whether the cloud keeps copies is not known; if it does, its bin holds them about 30 days.',
          likelihood: facts.syncing ? 'likely' : 'possible',
          cost: 'minutes; needs the account and its second factor',
          daysLeft: left,
          action: { kind: 'sign-in' },
        }),
      ]
    },
  },
  {
    id: 'ask-for-backup',
    steps: (facts) =>
      firstLoss(facts) !== null && !facts.sources.some((one) => one.ofBriefDevice && isBeforeLoss(facts, one))
        ? [
            step({
              do: 'Ask the owner for an older backup: other computers, old disks, another account.',
              why: 'No source of this job shows the device before the loss, so none can hold the items whole.',
              likelihood: 'possible',
              cost: 'the owner’s time',
              action: { kind: 'find-backups' },
            }),
          ]
        : [],
  },
  {
    id: 'device-locked',
    steps: ({ device }) =>
      device === 'locked'
        ? [
            step({
              do: 'Attach the device to a computer that it trusted before, or have its owner unlock it.',
              why: 'A locked device answers only where it trusted the computer before its last start.',
              likelihood: 'possible',
              cost: 'needs that computer or the passcode',
              action: { kind: 'bay' },
            }),
          ]
        : [],
  },
  {
    id: 'device-does-not-start',
    steps: ({ device }) =>
      device === 'does-not-start'
        ? [
            step({
              do: 'Bring the device to start again without erasing, then read it.',
              why: 'Its content is encrypted with keys that only the device has.',
              likelihood: 'possible',
              cost: 'an hour; reinstalling the system with data kept carries some risk',
              action: { kind: 'bay' },
            }),
          ]
        : [],
  },
  {
    id: 'media-cannot-be-rebuilt',
    steps: (facts) =>
      onlyFiles(facts) && deviceReadable(facts) && facts.matching.binned + facts.matching.earlier === 0
        ? [
            step({
              do: 'Look for surviving copies: attachments, other applications, small previews.',
              why: 'Deleted files cannot be rebuilt from an encrypted device: their keys go with them. Copies may live on elsewhere.',
              likelihood: 'possible',
              cost: 'minutes; copies may be smaller than the original',
              action: { kind: 'open', standings: [] },
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
              action: { kind: 'by-hand' },
            }),
          ]
        : [],
  },
  {
    id: 'full-restore-last',
    steps: (facts) =>
      usable(facts)
        .filter(
          (one) =>
            one.ofBriefDevice &&
            (one.kind === 'computer-backup' || one.kind === 'cloud-backup') &&
            firstLoss(facts) !== null &&
            isBeforeLoss(facts, one) &&
            !one.read,
        )
        .slice(0, 1)
        .map((one) =>
          step({
            do: `Only if nothing else serves: a full restore of ${named(facts, one)} onto the device.`,
            why: 'It brings back the state of that day, and wipes everything since. Look at the restore cost first.',
            likelihood: 'possible',
            cost: 'hours; everything newer on the device is lost',
            sourceId: one.id,
            action: { kind: 'restore-cost', sourceId: one.id },
          }),
        ),
  },
]
