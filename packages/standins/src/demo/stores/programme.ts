import { buffer } from 'node:stream/consumers'
import PDFDocument from 'pdfkit'

const ACTS = [
  ['The lamp and the moth', 'A moth falls in love with the lamp of a theatre van, and the van drives on.'],
  ['Five wooden foxes', 'Each knows a fifth of a story. None of them tells it first.'],
  ['What the curtain saw', 'Told by the curtain itself, which has only ever seen the backs of things.'],
]
const INK = '#2b2a33'
const LAMP = '#c98a1b'

/** The programme of the company's autumn tour, as PDF: a leaf for the cover and one for each play. */
export async function programme(): Promise<Uint8Array> {
  const made = new Date('2026-08-02T09:00:00Z')
  const pdf = new PDFDocument({ size: 'A5', margin: 48, info: { Title: 'Autumn programme', CreationDate: made } })
  const bytes = buffer(pdf)
  lamp(pdf, 210, 150, 60)
  pdf.fillColor(INK).font('Times-Bold').fontSize(28).text('Seven Strings', 48, 270, { align: 'center' })
  pdf.font('Times-Roman').fontSize(15).text('Autumn tour 2026', { align: 'center' })
  for (const [i, [title = '', words = '']] of ACTS.entries()) {
    pdf.addPage()
    lamp(pdf, 340, 90, 18)
    pdf
      .fillColor(INK)
      .font('Times-Italic')
      .fontSize(13)
      .text(`Play ${i + 1}`, 48, 80)
    pdf.font('Times-Bold').fontSize(22).text(title)
    pdf.moveDown().font('Times-Roman').fontSize(13).text(words, { lineGap: 4 })
  }
  pdf.end()
  return bytes
}

/** A lamp that hangs from the edge of the page. */
function lamp(pdf: PDFKit.PDFDocument, x: number, y: number, size: number): void {
  pdf
    .moveTo(x, 0)
    .lineTo(x, y - size)
    .lineWidth(1)
    .stroke(INK)
  pdf
    .moveTo(x, y - size)
    .lineTo(x - size, y + size / 2)
    .lineTo(x + size, y + size / 2)
    .closePath()
    .fill(LAMP)
  for (let ray = -2; ray <= 2; ray++)
    pdf
      .moveTo(x + ray * size * 0.4, y + size * 0.7)
      .lineTo(x + ray * size * 0.7, y + size * 1.4)
      .stroke(LAMP)
}
