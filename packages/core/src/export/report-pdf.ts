import { STANDINGS } from '../findings/standing.js'
import { Paper } from './paper.js'
import { contentRows, type Letterhead, MEANING, problemsHead, type Report } from './report.js'
import type { FontSlice } from './site/fonts.js'

const MOST_PROBLEMS = 100
const LABEL = 90
const FIGURE = 52
const MARK_HEIGHT = 50
const PICTURES_A_ROW = 6

/** The owner's report for printing, on A4. `slices`: fonts for letters that its own lacks. */
export const reportPdf = (report: Report, slices: readonly FontSlice[] = []): Promise<Uint8Array> =>
  Paper.write({ title: report.title, says: report, slices }, (paper) => {
    if (report.shop) letterhead(paper, report.shop)
    paper.title(report.title)
    paper.paragraph(`Written ${report.writtenAt}`, { soft: true, size: 9 })
    paper.facts(report.facts, LABEL)
    whatWasDone(paper, report)
    paper.head('What was found')
    const rows = contentRows(report)
    paper.table(rows, ['*', ...(rows[0] ?? []).slice(1).map(() => FIGURE)])
    paper.paragraph(STANDINGS.map((standing) => `${standing}: ${MEANING[standing]}`).join(' · '), {
      soft: true,
      size: 8,
    })
    if (report.pictures.length > 0) {
      paper.head('Some of the pictures')
      paper.pictures(report.pictures, PICTURES_A_ROW)
    }
    section(paper, 'What is not whole, or not sure', report.uncertain)
    section(paper, 'What was not found, and why', report.notHad)
    section(paper, problemsHead(report), report.problems.slice(0, MOST_PROBLEMS))
    paper.head('How to check this package')
    for (const words of report.check) paper.paragraph(words)
  })

/** Who writes, as every paper of the shop begins. */
export function letterhead(paper: Paper, { name, address, mark }: Letterhead): void {
  if (mark) paper.mark(mark, `The mark of ${name}`, MARK_HEIGHT)
  paper.paragraph(name, { size: 11 })
  for (const line of address.split('\n').filter(Boolean)) paper.paragraph(line, { soft: true, size: 9 })
  paper.document.moveDown(2)
}

function whatWasDone(paper: Paper, { reads }: Report): void {
  if (reads.length === 0) return
  paper.head('What was done')
  for (const { source, takenAt, looked, gaps, checksum } of reads) {
    paper.paragraph(`${source}${takenAt === null ? '' : `, as it was on ${takenAt}`}. ${looked}`)
    if (gaps.length > 0) paper.list(gaps)
    if (checksum !== null) paper.paragraph(checksum, { soft: true, size: 8 })
  }
}

function section(paper: Paper, head: string, lines: readonly string[]): void {
  if (lines.length === 0) return
  paper.head(head)
  paper.list(lines)
}
