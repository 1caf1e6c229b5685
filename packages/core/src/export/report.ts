import type { CategoryId } from '../categories/registry.js'
import { categoryList } from '../categories/table.js'
import { STANDINGS, type Standing } from '../findings/standing.js'
import { minuteIn } from '../io/time-zone.js'
import { VERIFY_COMMAND } from './signing.js'

/** The shop that hands over, as its papers are headed. */
export interface Letterhead {
  name: string
  /** Lines, as on an envelope. */
  address: string
  /** PNG or JPEG; null: it has none. */
  mark: Uint8Array | null
}

/** What was done with a source: what was looked for in it, and what of it could not be had, with the reasons. */
export interface ReadLine {
  source: string
  takenAt: string | null
  looked: string
  gaps: readonly string[]
  /** By what the source is told from one that was changed, in words; null: it could not be had. */
  checksum: string | null
}

/** A picture of the contact sheet. */
export interface SheetPicture {
  /** JPEG. */
  bytes: Uint8Array
  alt: string
  /** Where it lies, from the folder of the report. */
  place: string
}

/** Who the package is for and what was sought; all of it optional, since the command line knows no job. */
export interface PackageSubject {
  jobNumber: string | null
  /** The job's own id, which no other installation has: a package belongs to one job. */
  jobUid?: string | null
  owner: string | null
  device: string | null
  /** By whose clocks times are given (IANA); absent: UTC. */
  timeZone?: string
  sought: string | null
  /** What the brief is answered with, in words. */
  answer?: string | null
  /** What was sought and could not be had, each with its reason. */
  notHad?: readonly string[]
  /** What was read: name, date of its state, and what it is told by. */
  sources?: readonly SourceLine[]
  /** Who hands over; absent: nobody said. */
  shop?: Letterhead | null
  /** The account of the reads, a source each. */
  reads?: readonly ReadLine[]
  /** The newest seal of the job’s log, and how many entries lead to it: what was done until now cannot be changed unseen. */
  log?: { entries: number; hash: string } | null
}

export interface SourceLine {
  name: string
  path: string
  takenAt: string | null
  /** The same as in the account of its read. */
  checksum?: string | null
}

/** The zone whose clocks a package goes by. */
export const zoneOf = ({ timeZone }: PackageSubject): string => timeZone ?? 'UTC'

/** Items of a package by category and standing. */
export type Counts = Partial<Record<CategoryId, Partial<Record<Standing, number>>>>

export const MEANING: Record<Standing, string> = {
  kept: 'still on the device',
  binned: 'in its bin',
  earlier: 'gone from the device, intact in an older source',
  rebuilt: 'deleted, whole again from leftovers',
  partial: 'deleted, some of it missing',
  elsewhere: 'only on another device or in the account',
}

/** What the report says, before it is a page or a printable document. */
export interface Report {
  title: string
  shop: Letterhead | null
  writtenAt: string
  facts: [label: string, value: string][]
  reads: readonly ReadLine[]
  pictures: readonly SheetPicture[]
  /** What is not whole, or not sure, in plain words. */
  uncertain: readonly string[]
  kinds: { label: string; counts: number[] }[]
  notHad: readonly string[]
  problems: readonly string[]
  /** Items whose content could not be written, beyond those that are counted. */
  missed: number
  /** How the package is checked, a paragraph each. */
  check: readonly string[]
}

/** Puts together what the owner is told. */
export function reportOf(
  subject: PackageSubject,
  counts: Counts,
  problems: readonly string[],
  missed: number,
  { writtenAt, signedBy, pictures = [] }: { writtenAt: Date; signedBy?: string | undefined; pictures?: SheetPicture[] },
): Report {
  const facts = Object.entries({
    Job: subject.jobNumber,
    For: subject.owner,
    Device: subject.device,
    Sought: subject.sought,
    Answer: subject.answer ?? null,
    Times: zoneOf(subject),
  }).flatMap(([label, value]): [string, string][] => (value ? [[label, value]] : []))
  return {
    title: 'What was recovered',
    shop: subject.shop ?? null,
    reads: subject.reads ?? [],
    pictures,
    uncertain: uncertainIn(counts),
    writtenAt: `${minuteIn(writtenAt, zoneOf(subject))} (${zoneOf(subject)})`,
    facts,
    kinds: categoryList
      .filter(({ id }) => counts[id])
      .map(({ id, label }) => ({ label, counts: STANDINGS.map((standing) => counts[id]?.[standing] ?? 0) })),
    notHad: subject.notHad ?? [],
    problems,
    missed,
    check: [
      'Open a terminal in the package’s folder and run “sha256sum -c manifest-sha256.txt tagmanifest-sha256.txt”. Every line must end in OK.',
      ...(signedBy === undefined
        ? []
        : [
            `It is signed. “${VERIFY_COMMAND}” must say that the signature was verified. The key’s fingerprint (SHA-256) is ${signedBy}: it is the same in every package of this shop, which can tell it to you again.`,
          ]),
    ],
  }
}

/** How many items are not as they were, and what that means. */
function uncertainIn(counts: Counts): string[] {
  const sum = (standing: Standing) => Object.values(counts).reduce((all, one) => all + (one[standing] ?? 0), 0)
  const [partial, rebuilt, elsewhere] = [sum('partial'), sum('rebuilt'), sum('elsewhere')]
  return [
    partial > 0 &&
      `${itemsOf(partial)} came back in part: what is shown of them was there, and what is missing was overwritten. Nothing was made up in its place.`,
    rebuilt > 0 &&
      `${itemsOf(rebuilt)} had been deleted and were put together from what the device had not overwritten yet. Each has a confidence in the shop’s provenance; a date or a name may rarely belong to another one.`,
    elsewhere > 0 && `${itemsOf(elsewhere)} stand on another device or in the account, and may be somebody else’s.`,
  ].filter((line) => line !== false)
}

const itemsOf = (count: number): string => (count === 1 ? 'One item' : `${count} items`)

/** Says how many items are not among those that were counted. */
export const problemsHead = ({ missed }: Report): string =>
  missed === 0
    ? 'What could not be written'
    : `What could not be written: ${missed === 1 ? 'one item' : `${missed} items`}, not counted above`

/** Rows of the table of contents, its head first: kinds, how their items stand, and all of them. */
export function contentRows({ kinds }: Pick<Report, 'kinds'>): string[][] {
  const used = STANDINGS.map((_, i) => i).filter((i) => kinds.some(({ counts }) => (counts[i] ?? 0) > 0))
  const row = (label: string, counts: readonly number[]) => [
    label,
    ...used.map((i) => String(counts[i] ?? 0)),
    String(counts.reduce((sum, count) => sum + count, 0)),
  ]
  const sums = STANDINGS.map((_, i) => kinds.reduce((sum, { counts }) => sum + (counts[i] ?? 0), 0))
  return [
    ['Kind', ...used.map((i) => STANDINGS[i] as string), 'all'],
    ...kinds.map(({ label, counts }) => row(label, counts)),
    ...(kinds.length > 1 ? [row('All', sums)] : []),
  ]
}
