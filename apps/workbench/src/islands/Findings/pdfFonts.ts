import foxitDingbats from 'pdfjs-dist/standard_fonts/FoxitDingbats.pfb?url'
import foxitFixed from 'pdfjs-dist/standard_fonts/FoxitFixed.pfb?url'
import foxitFixedBold from 'pdfjs-dist/standard_fonts/FoxitFixedBold.pfb?url'
import foxitFixedBoldItalic from 'pdfjs-dist/standard_fonts/FoxitFixedBoldItalic.pfb?url'
import foxitFixedItalic from 'pdfjs-dist/standard_fonts/FoxitFixedItalic.pfb?url'
import foxitSerif from 'pdfjs-dist/standard_fonts/FoxitSerif.pfb?url'
import foxitSerifBold from 'pdfjs-dist/standard_fonts/FoxitSerifBold.pfb?url'
import foxitSerifBoldItalic from 'pdfjs-dist/standard_fonts/FoxitSerifBoldItalic.pfb?url'
import foxitSerifItalic from 'pdfjs-dist/standard_fonts/FoxitSerifItalic.pfb?url'
import foxitSymbol from 'pdfjs-dist/standard_fonts/FoxitSymbol.pfb?url'
import liberationSansBold from 'pdfjs-dist/standard_fonts/LiberationSans-Bold.ttf?url'
import liberationSansBoldItalic from 'pdfjs-dist/standard_fonts/LiberationSans-BoldItalic.ttf?url'
import liberationSansItalic from 'pdfjs-dist/standard_fonts/LiberationSans-Italic.ttf?url'
import liberationSansRegular from 'pdfjs-dist/standard_fonts/LiberationSans-Regular.ttf?url'

/**
 * The fourteen fonts that a PDF may count on without bringing them (ISO 32000-1, section 9.6.2.2), by the names under
 * which the library of documents asks for them.
 */
const ADDRESSES: Record<string, string> = {
  'FoxitDingbats.pfb': foxitDingbats,
  'FoxitFixed.pfb': foxitFixed,
  'FoxitFixedBold.pfb': foxitFixedBold,
  'FoxitFixedBoldItalic.pfb': foxitFixedBoldItalic,
  'FoxitFixedItalic.pfb': foxitFixedItalic,
  'FoxitSerif.pfb': foxitSerif,
  'FoxitSerifBold.pfb': foxitSerifBold,
  'FoxitSerifBoldItalic.pfb': foxitSerifBoldItalic,
  'FoxitSerifItalic.pfb': foxitSerifItalic,
  'FoxitSymbol.pfb': foxitSymbol,
  'LiberationSans-Bold.ttf': liberationSansBold,
  'LiberationSans-BoldItalic.ttf': liberationSansBoldItalic,
  'LiberationSans-Italic.ttf': liberationSansItalic,
  'LiberationSans-Regular.ttf': liberationSansRegular,
}

/** Gives the PDF library the standard fonts that ship with the application, when a document embeds none. */
export class ShippedFonts {
  async fetch({ filename }: { filename: string }): Promise<Uint8Array> {
    const answer = await fetch(ADDRESSES[filename] ?? '')
    if (!ADDRESSES[filename] || !answer.ok) throw new Error(`there is no font ${filename}`)
    return new Uint8Array(await answer.arrayBuffer())
  }
}
