import { definitionOf } from '@lumbrin/core/categories/registry'
import type { Json } from '@lumbrin/core/categories/types'
import { contentAddress, thumbnailAddress } from '../../components/addresses'
import { Scroller } from '../../components/Scroller'
import type { FindingLine } from '../../domain/finding'
import { EventCard } from './EventCard'
import { PdfPreview } from './PdfPreview'
import { Secret } from './Secret'
import { Sound } from './Sound'
import { isPlainText, TextPreview } from './TextPreview'

/** What a finding looks like: fit to its kind. Pictures have views of their own. */
export function Preview({ line }: { line: FindingLine }) {
  if (line.category === 'notes' && Array.isArray(line.fields.paragraphs) && line.fields.paragraphs.length > 0)
    return <Note paragraphs={line.fields.paragraphs} />
  if (line.category === 'events') return <EventCard line={line} />
  if (line.category === 'credentials') return <Secret key={line.id} findingId={line.id} />
  if (line.category === 'contacts') return <Contact line={line} />
  const mime = String(line.fields.mime ?? '')
  if (mime.startsWith('image/') && line.hasContent)
    return <img src={thumbnailAddress(line.id)} alt={line.title} className="mt-4 w-full rounded-sm" />
  if ((definitionOf(line.category).contents === 'sound' || mime.startsWith('audio/')) && line.hasContent)
    return <Sound id={line.id} title={line.title} bytes={line.bytes} />
  if ((line.category === 'videos' || mime.startsWith('video/')) && line.hasContent) return <Film line={line} />
  if (mime === 'application/pdf' && line.hasContent) return <PdfPreview key={line.id} line={line} />
  if (isPlainText(mime) && line.hasContent) return <TextPreview line={line} />
  if (!line.text) return null
  return (
    <p dir="auto" className="mt-4 break-words whitespace-pre-wrap">
      {line.text}
    </p>
  )
}

/** A film, played straight from its source in the pieces that the player asks for; its first picture stands for it. */
export function Film({ line, large = false }: { line: FindingLine; large?: boolean }) {
  return (
    // biome-ignore lint/a11y/useMediaCaption: films of the owner have no captions
    <video
      controls
      preload="metadata"
      className={large ? 'private max-h-[80vh] max-w-full' : 'mt-4 w-full rounded-sm bg-sunk'}
      src={`${contentAddress(line.id)}#t=0.1`}
      aria-label={line.title}
    />
  )
}

/** A card: picture, and ways to reach the person. */
function Contact({ line }: { line: FindingLine }) {
  const { picture } = line.fields
  const { mime, base64 } = (picture ?? {}) as { mime?: string; base64?: string }
  return (
    <div className="mt-4 flex items-start gap-4">
      {base64 && (
        <img src={`data:${mime};base64,${base64}`} alt={line.title} className="h-20 w-20 rounded-full object-cover" />
      )}
      <ul className="min-w-0 space-y-0.5 break-words">
        {(line.text ?? '').split(', ').map((way) => (
          <li key={way}>{way}</li>
        ))}
      </ul>
    </div>
  )
}

const STYLES: Record<string, string> = {
  title: 'text-lg font-semibold',
  heading: 'font-semibold',
  subheading: 'font-medium',
  monospaced: 'font-mono text-sm',
}
const MARKS: Record<string, string> = { dotted: '• ', dashed: '– ', numbered: '# ' }

function NoteTable({ rows }: { rows: Json | undefined }) {
  return (
    <Scroller label="Table" className="my-1 overflow-x-auto">
      <table className="text-sm">
        <tbody>
          {(Array.isArray(rows) ? rows : []).map((cells, row) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows of a table may be equal
            <tr key={row}>
              {(Array.isArray(cells) ? cells : []).map((cell, column) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: and so may its cells
                <td key={column} dir="auto" className="border border-rule px-2 py-1 align-top">
                  {String(cell)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scroller>
  )
}

function Note({ paragraphs }: { paragraphs: Json[] }) {
  return (
    <div className="mt-4 space-y-1 break-words">
      {paragraphs.map((paragraph, i) => {
        if (typeof paragraph !== 'object' || paragraph === null || Array.isArray(paragraph)) return null
        const style = String(paragraph.style)
        // biome-ignore lint/suspicious/noArrayIndexKey: lines of a note may be equal
        if (style === 'table') return <NoteTable key={i} rows={paragraph.rows} />
        const mark = style === 'checklist' ? (paragraph.done ? '☑ ' : '☐ ') : (MARKS[style] ?? '')
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines of a note may be equal
          <p key={i} dir="auto" className={STYLES[style]}>
            {mark}
            {String(paragraph.text)}
          </p>
        )
      })}
    </div>
  )
}
