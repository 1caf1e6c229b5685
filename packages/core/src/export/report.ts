import type { CategoryId } from '../categories/registry.js'
import { categoryList } from '../categories/table.js'
import { STANDINGS, type Standing } from '../findings/standing.js'
import { minuteIn } from '../io/time-zone.js'
import { escapeHtml, page } from './html.js'
import { VERIFY_COMMAND } from './signing.js'

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
  /** The newest seal of the job’s log, and how many entries lead to it: what was done until now cannot be changed unseen. */
  log?: { entries: number; hash: string } | null
}

export interface SourceLine {
  name: string
  path: string
  takenAt: string | null
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
  writtenAt: string
  facts: [label: string, value: string][]
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
  { writtenAt, signedBy }: { writtenAt: Date; signedBy?: string | undefined },
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

/** The page for the owner: what is in the package, how it stands, what could not be had, and how to check it. */
export function reportPage(report: Report): string {
  const rows = report.kinds.map(
    ({ label, counts }) =>
      `<tr><td>${escapeHtml(label)}</td>${counts.map((count) => `<td class="n">${count}</td>`).join('')}</tr>`,
  )
  const facts = report.facts.map(([label, value]) => `<tr><th>${label}</th><td>${escapeHtml(value)}</td></tr>`)
  return page(
    report.title,
    `<h1>${report.title}</h1>
<p class="soft">Written ${report.writtenAt}</p>
<table>${facts.join('')}</table>
<h2>Contents</h2>
<table><tr><th>Kind</th>${STANDINGS.map((standing) => `<th class="n">${standing}</th>`).join('')}</tr>${rows.join('')}</table>
<p class="soft">${STANDINGS.map((standing) => `<b>${standing}</b>: ${MEANING[standing]}`).join(' · ')}</p>
${listOf('What was not found, and why', report.notHad)}${listOf(problemsHead(report), report.problems)}
<h2>How to check this package</h2>
${report.check.map((words) => `<p>${escapeHtml(words)}</p>`).join('')}`,
  )
}

/** Says how many items are not among those that were counted. */
export const problemsHead = ({ missed }: Report): string =>
  missed === 0
    ? 'What could not be written'
    : `What could not be written: ${missed === 1 ? 'one item' : `${missed} items`}, not counted above`

const listOf = (head: string, lines: readonly string[]): string =>
  lines.length === 0 ? '' : `<h2>${head}</h2><ul>${lines.map((line) => `<li>${escapeHtml(line)}</li>`).join('')}</ul>`
