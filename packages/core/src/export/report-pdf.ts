import { createRequire } from 'node:module'
import { STANDINGS } from '../findings/standing.js'
import { plainText } from './plain-text.js'
import { MEANING, problemsHead, type Report } from './report.js'

const find = createRequire(import.meta.url)
const PLAIN = 'plain'
const BOLD = 'bold'
// In points: A4 with margins of 2 cm.
const MARGIN = 57
const WIDTH = 595 - 2 * MARGIN
const FIGURE = 62
const MOST_PROBLEMS = 100

/** The owner's report for printing, on A4 (PDF 1.3 or later, ISO 32000). */
export async function reportPdf(report: Report): Promise<Uint8Array> {
  // Loaded with the first report: whoever only reads a source need not wait for it.
  const { default: PDFDocument } = await import('pdfkit')
  const document = new PDFDocument({ size: 'A4', margin: MARGIN, info: { Title: report.title, Producer: 'Lumbrin' } })
  const pieces: Uint8Array[] = []
  const ended = new Promise<void>((resolve, reject) => {
    document.on('data', (piece: Uint8Array) => pieces.push(piece))
    document.once('end', () => resolve())
    document.once('error', reject)
  })
  document.registerFont(PLAIN, find.resolve('dejavu-fonts-ttf/ttf/DejaVuSans.ttf'))
  document.registerFont(BOLD, find.resolve('dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf'))
  write(document, report)
  document.end()
  await ended
  return Buffer.concat(pieces)
}

function write(document: PDFKit.PDFDocument, report: Report): void {
  document.font(BOLD).fontSize(18).text(report.title)
  document.font(PLAIN).fontSize(9).fillColor('#555').text(`Written ${report.writtenAt}`).fillColor('#000')
  document.moveDown()
  for (const [label, value] of report.facts)
    document.font(BOLD).fontSize(10).text(`${label}: `, { continued: true }).font(PLAIN).text(shown(value))
  head(document, 'Contents')
  row(document, 'Kind', [...STANDINGS], BOLD)
  for (const { label, counts } of report.kinds) row(document, label, counts.map(String), PLAIN)
  document.moveDown(0.5).fontSize(8).fillColor('#555')
  document.text(STANDINGS.map((standing) => `${standing}: ${MEANING[standing]}`).join(' · ')).fillColor('#000')
  list(document, 'What was not found, and why', report.notHad)
  list(document, problemsHead(report), report.problems.slice(0, MOST_PROBLEMS))
  head(document, 'How to check this package')
  for (const words of report.check) document.text(words).moveDown(0.5)
}

function head(document: PDFKit.PDFDocument, words: string): void {
  document.moveDown().font(BOLD).fontSize(12).text(words, MARGIN).moveDown(0.3).font(PLAIN).fontSize(10)
}

function row(document: PDFKit.PDFDocument, label: string, figures: readonly string[], font: string): void {
  if (document.y > document.page.height - 2 * MARGIN) document.addPage()
  const { y } = document
  document.font(font).fontSize(10)
  const left = WIDTH - figures.length * FIGURE
  for (const [i, figure] of figures.entries())
    document.text(figure, MARGIN + left + i * FIGURE, y, { width: FIGURE, align: 'right', lineBreak: false })
  document.text(label, MARGIN, y, { width: left })
}

function list(document: PDFKit.PDFDocument, words: string, lines: readonly string[]): void {
  if (lines.length === 0) return
  head(document, words)
  document.list(lines.map(shown), MARGIN, document.y, { bulletRadius: 1.5, textIndent: 10, width: WIDTH })
}

/** Scripts that the shipped font lacks are shown as marks here; the page beside this document has them. */
const shown = (text: string): string =>
  plainText(text).replace(/[\u1100-\u11ff\u2e80-\u9fff\uac00-\ud7af\uf900-\ufaff\u{10000}-\u{10ffff}]/gu, '□')
