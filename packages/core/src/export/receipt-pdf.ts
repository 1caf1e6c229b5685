import { formatBytes } from '../io/bytes.js'
import type { Listed } from './bag-types.js'
import { Paper } from './paper.js'
import { contentRows, type Report } from './report.js'
import { letterhead } from './report-pdf.js'
import type { FontSlice } from './site/fonts.js'

/** A page to sign: what was handed over to whom, and by what that package is known. */
export const receiptPdf = (
  report: Report,
  { name, manifest, files, bytes }: Listed,
  slices: readonly FontSlice[] = [],
): Promise<Uint8Array> =>
  Paper.write({ title: 'Receipt', says: report, slices }, (paper) => {
    if (report.shop) letterhead(paper, report.shop)
    paper.title('Receipt')
    paper.facts([...report.facts, ['Written', report.writtenAt]], 90)
    paper.head('What is handed over')
    const rows = contentRows(report).map((row) => [row[0] ?? '', row.at(-1) ?? ''])
    paper.table(rows, ['*', 90])
    paper.paragraph(`${files} files, ${formatBytes(bytes)} (${bytes} bytes).`)
    if (report.missed > 0)
      paper.paragraph(`The contents of ${report.missed} more could not be written; the report names them.`)
    paper.head('By what it is known')
    paper.paragraph(`SHA-256 of ${name}, which names every file of the package with its own checksum:`)
    paper.paragraph((manifest.match(/.{8}/g) ?? []).join(' '), { size: 9 })
    paper.paragraph(`“sha256sum ${name}” in the package’s folder must say the same, without the gaps.`, {
      soft: true,
      size: 9,
    })
    paper.lines(['Place and date', 'Handed over by', 'Received by'])
  })
