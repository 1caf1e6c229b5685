import type { Definition } from '../categories/definition.js'
import { BookmarkFileWriter } from './bookmark-file.js'
import { ConversationWriter } from './conversation.js'
import { ConversationTextWriter } from './conversation-text.js'
import { CredentialsWriter } from './credentials.js'
import { CsvWriter } from './csv.js'
import type { FormatWriter, PackageContext } from './format.js'
import { GeojsonWriter } from './geojson.js'
import { GpxWriter } from './gpx.js'
import { IcalendarWriter } from './icalendar.js'
import { JpegWriter } from './jpeg.js'
import { JsonLinesWriter } from './json-lines.js'
import { MailboxWriter } from './mailbox.js'
import { NoteMarkdownWriter, NotePagesWriter, NoteTextWriter } from './note-files.js'
import { AlbumsWriter, OriginalsWriter } from './originals.js'
import { SidecarsWriter } from './sidecars.js'
import { TablePageWriter } from './table-page.js'
import { Vcard3Writer, VcardWriter } from './vcard.js'
import { VcardFilesWriter } from './vcard-files.js'

interface Format {
  /** As it stands on screen, behind the category's name. */
  label: string
  writer: new (context: PackageContext, folder: string) => FormatWriter
}

/** The formats by the ids that categories name. */
export const FORMATS = {
  html: { label: 'pages by conversation', writer: ConversationWriter },
  text: { label: 'plain text by conversation', writer: ConversationTextWriter },
  mailbox: { label: 'mailbox by conversation', writer: MailboxWriter },
  original: { label: 'files as they are, by year and month', writer: OriginalsWriter },
  albums: { label: 'files as they are, by album', writer: AlbumsWriter },
  sidecars: { label: 'what the library knew, beside each (XMP)', writer: SidecarsWriter },
  jpeg: { label: 'HEIC pictures as JPEG too', writer: JpegWriter },
  credentials: { label: 'CSV with the passwords in plain words', writer: CredentialsWriter },
  vcard: { label: 'vCard 4', writer: VcardWriter },
  'vcard-files': { label: 'vCard 4, a file for each', writer: VcardFilesWriter },
  vcard3: { label: 'vCard 3', writer: Vcard3Writer },
  icalendar: { label: 'iCalendar', writer: IcalendarWriter },
  geojson: { label: 'GeoJSON', writer: GeojsonWriter },
  gpx: { label: 'GPX', writer: GpxWriter },
  'bookmark-file': { label: 'bookmark file', writer: BookmarkFileWriter },
  'note-pages': { label: 'pages', writer: NotePagesWriter },
  'note-texts': { label: 'plain texts', writer: NoteTextWriter },
  markdown: { label: 'Markdown', writer: NoteMarkdownWriter },
  'html-table': { label: 'table page', writer: TablePageWriter },
  csv: { label: 'CSV', writer: CsvWriter },
  'json-lines': { label: 'JSON Lines', writer: JsonLinesWriter },
} satisfies Record<string, Format>

export type FormatId = keyof typeof FORMATS

export const isFormat = (id: string): id is FormatId => Object.hasOwn(FORMATS, id)

/** Formats that make sense wherever another one does. */
const COMPANIONS: Partial<Record<FormatId, readonly FormatId[]>> = {
  html: ['text', 'mailbox'],
  vcard: ['vcard3', 'vcard-files'],
  'note-pages': ['note-texts', 'markdown'],
  geojson: ['gpx'],
}
const OF_ALL: readonly FormatId[] = ['csv', 'html-table', 'json-lines']

/** What a category can be written as: its own formats first. Passwords go out in the one format made for them. */
export function formatsOffered({ formats, moreFormats = [] }: Definition): FormatId[] {
  if (formats.includes('credentials')) return ['credentials']
  const own = formats.filter(isFormat)
  const more = own.flatMap((id) => COMPANIONS[id] ?? [])
  return [...new Set([...own, ...more, ...moreFormats.filter(isFormat), ...OF_ALL])]
}
