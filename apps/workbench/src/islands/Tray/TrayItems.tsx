import { type CategoryId, PICTURE_CATEGORIES } from '@lumbrin/core/categories/registry'
import { thumbnailAddress } from '../../components/addresses'
import { Failure } from '../../components/Failure.js'
import { StandingMark } from '../../components/StandingMark'
import { ItemTime, useTimes } from '../../components/times'
import { useAsk } from '../../components/useAsk'
import type { FindingLine } from '../../domain/finding'
import { fromAddress } from '../../domain/findings-query'
import { CONTENT_STATE_WORDS } from '../../domain/labels'
import { useFindings } from '../Findings/useFindings'
import { ItemNote } from './ItemNote'

interface Props {
  jobId: number
  category: CategoryId
  takeOut: (line: FindingLine) => void
}

/** The items of a category in the tray, to be gone through with the owner: a contact sheet, or a list. */
export function TrayItems({ jobId, category, takeOut }: Props) {
  const query = { ...fromAddress(`?category=${category}`), inTray: true }
  const { lines, error, hasNextPage, isFetching, fetchNextPage } = useFindings(jobId, query, 'oldest')
  const { answer: notes } = useAsk('GET /api/jobs/{job}/notes', { path: { job: jobId } })
  const noteOf = (line: FindingLine) => notes?.find(({ finding }) => finding === line.id)?.text ?? ''
  const Shown = PICTURE_CATEGORIES.includes(category) || category === 'videos' ? ContactSheet : List
  return (
    <>
      <Failure className="mt-2">{error?.message}</Failure>
      <Shown lines={lines} takeOut={takeOut} noteOf={noteOf} />
      {hasNextPage && (
        <button type="button" className="button mt-2" disabled={isFetching} onClick={() => void fetchNextPage()}>
          Show more
        </button>
      )}
    </>
  )
}

interface ShownProps {
  lines: FindingLine[]
  noteOf: (line: FindingLine) => string
  takeOut: (line: FindingLine) => void
}

const nameOf = ({ title }: FindingLine) => title || 'Without a name'
const inFindings = ({ category, id }: FindingLine) => `findings?category=${category}&finding=${id}`
/** What of an item cannot be handed over whole; empty: nothing. */
const lackOf = ({ standing, contentState }: FindingLine) =>
  CONTENT_STATE_WORDS[contentState] || (standing === 'partial' ? 'only parts are left' : '')

function ContactSheet({ lines, takeOut, noteOf }: ShownProps) {
  return (
    <ul className="mt-2 flex flex-wrap gap-3">
      {lines.map((line) => (
        <li key={line.id} className="w-32 text-sm break-inside-avoid">
          <a href={inFindings(line)} className="private block h-32 overflow-hidden rounded-sm bg-sunk">
            {line.hasContent ? (
              <img
                src={thumbnailAddress(line.id)}
                alt={nameOf(line)}
                loading="lazy"
                className="h-full w-full object-cover"
              />
            ) : (
              <span className="block p-2 text-soft">{nameOf(line)}: the picture itself is gone</span>
            )}
          </a>
          <span className="mt-1 flex items-center gap-1">
            <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
            <span className="private truncate" title={nameOf(line)}>
              {nameOf(line)}
            </span>
          </span>
          <span className="block text-soft">
            <ItemTime item={line} />
          </span>
          {lackOf(line) && <span className="block text-partial">{lackOf(line)}</span>}
          <ItemNote findingId={line.id} name={nameOf(line)} note={noteOf(line)} />
          <TakeOut line={line} takeOut={takeOut} />
        </li>
      ))}
    </ul>
  )
}

function List({ lines, takeOut, noteOf }: ShownProps) {
  return (
    <ul className="mt-1 max-w-5xl">
      {lines.map((line) => (
        <li
          key={line.id}
          className="grid grid-cols-[1.25rem_8.5rem_11rem_minmax(0,1fr)_minmax(3rem,14rem)_auto] items-baseline gap-3 border-b border-rule py-1 break-inside-avoid"
        >
          <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
          <span className="text-soft">
            <ItemTime item={line} />
          </span>
          <a href={inFindings(line)} className="private truncate hover:underline">
            {nameOf(line)}
          </a>
          <span className="private line-clamp-2 break-words" dir="auto">
            {line.text ?? ''}
            {lackOf(line) && <span className="text-partial"> {lackOf(line)}</span>}
          </span>
          <ItemNote findingId={line.id} name={nameOf(line)} note={noteOf(line)} />
          <TakeOut line={line} takeOut={takeOut} />
        </li>
      ))}
    </ul>
  )
}

function TakeOut({ line, takeOut }: { line: FindingLine; takeOut: (line: FindingLine) => void }) {
  const { ofItem } = useTimes()
  return (
    <button
      type="button"
      className="text-sm text-accent underline underline-offset-2 print:hidden"
      aria-label={`Take out of the tray: ${nameOf(line)}, ${ofItem(line)}`}
      onClick={() => takeOut(line)}
    >
      Take out
    </button>
  )
}
