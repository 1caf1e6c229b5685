import { useEffect, useRef } from 'react'
import { formatTime } from '../../components/format'
import { StandingMark } from '../../components/StandingMark'
import type { FindingLine } from '../../database/queries'
import { Film } from './Preview'

// What browsers show by themselves; all else comes as WebP.
const SHOWN_BY_BROWSERS = /\.(jpe?g|png|gif|webp)$/i

const pictureAddress = ({ id, title, fields }: FindingLine) =>
  SHOWN_BY_BROWSERS.test(String(fields.path ?? fields.fileName ?? title))
    ? `/api/findings/${id}/content`
    : `/api/findings/${id}/thumbnail?size=large`

/** One finding over the whole window. Escape closes it. */
export function LargeView({ line, close }: { line: FindingLine; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  useEffect(() => dialog.current?.showModal(), [])
  return (
    <dialog
      ref={dialog}
      onClose={close}
      aria-label={line.title}
      className="m-auto max-h-[94vh] max-w-[94vw] overflow-auto rounded bg-paper p-4 text-ink"
    >
      <header className="mb-3 flex items-center gap-4">
        <h2 className="private">{line.title}</h2>
        <StandingMark standing={line.standing} label />
        <span className="text-soft">{formatTime(line.when)} UTC</span>
        <button type="button" className="button ml-auto" onClick={() => dialog.current?.close()}>
          Close
        </button>
      </header>
      {line.category === 'videos' && line.hasContent ? (
        <Film line={line} large />
      ) : line.category === 'photos' ? (
        line.hasContent ? (
          <img src={pictureAddress(line)} alt={line.title} className="private max-h-[80vh] max-w-full" />
        ) : (
          <p>The picture itself is not in the source. Its name, date and place are what is left.</p>
        )
      ) : (
        <p dir="auto" className="private max-w-2xl text-lg break-words whitespace-pre-wrap">
          {line.text ?? 'There is no text.'}
        </p>
      )}
    </dialog>
  )
}
