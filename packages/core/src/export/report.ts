import { categoryList } from '../categories/table.js'
import type { CategoryId } from '../categories/types.js'
import { STANDINGS, type Standing } from '../findings/standing.js'
import { escapeHtml, page } from './html.js'

/** Who the package is for and what was sought; all of it optional, since the command line knows no job. */
export interface PackageSubject {
  jobNumber: string | null
  owner: string | null
  device: string | null
  sought: string | null
  /** What the brief is answered with, in words. */
  answer?: string | null
}

/** Items of a package by category and standing. */
export type Counts = Partial<Record<CategoryId, Partial<Record<Standing, number>>>>

const MEANING: Record<Standing, string> = {
  kept: 'still on the device',
  binned: 'in its bin',
  earlier: 'only in an older source',
  rebuilt: 'deleted, whole again from leftovers',
  partial: 'deleted, some of it missing',
}

/** The page for the owner: what is in the package, how it stands, and how to check it. */
export function reportPage(
  subject: PackageSubject,
  counts: Counts,
  problems: readonly string[],
  writtenAt: Date,
): string {
  const used = categoryList.filter((category) => counts[category.id])
  const rows = used.map((category) => {
    const cells = STANDINGS.map((standing) => `<td class="n">${counts[category.id]?.[standing] ?? 0}</td>`).join('')
    return `<tr><td>${escapeHtml(category.label)}</td>${cells}</tr>`
  })
  const facts = Object.entries({
    Job: subject.jobNumber,
    For: subject.owner,
    Device: subject.device,
    Sought: subject.sought,
    Answer: subject.answer ?? null,
  }).flatMap(([label, value]) => (value ? [`<tr><th>${label}</th><td>${escapeHtml(value)}</td></tr>`] : []))
  return page(
    'What was recovered',
    `<h1>What was recovered</h1>
<p class="soft">Written ${escapeHtml(writtenAt.toISOString().slice(0, 16).replace('T', ' '))} UTC</p>
<table>${facts.join('')}</table>
<h2>Contents</h2>
<table><tr><th>Kind</th>${STANDINGS.map((standing) => `<th class="n">${standing}</th>`).join('')}</tr>${rows.join('')}</table>
<p class="soft">${STANDINGS.map((standing) => `<b>${standing}</b>: ${MEANING[standing]}`).join(' · ')}</p>
${problems.length > 0 ? `<h2>What could not be written</h2><ul>${problems.map((problem) => `<li>${escapeHtml(problem)}</li>`).join('')}</ul>` : ''}
<h2>How to check this package</h2>
<p>Open a terminal in the package's folder and run <code>sha256sum -c manifest-sha256.txt</code>. Every line must end in OK.</p>`,
  )
}
