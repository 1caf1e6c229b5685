import { RETRIABLE } from '@lumbrin/core/categories/content-states'
import type { Origin } from '@lumbrin/core/categories/types'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment } from '../../components/times'
import { useAct } from '../../components/useAct'
import type { ExplainedFinding, SightingDetail } from '../../domain/finding'
import { CONTENT_STATE_WORDS, JOINED_BY_WORDS } from '../../domain/labels'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

/** A finding that is to become part of the next one that is chosen. */
export interface Waiting {
  id: number
  title: string
  category: string
}

interface Props {
  finding: ExplainedFinding
  sources: Wire<Source>[]
  /** Null: none. */
  waiting: Waiting | null
  wait: (finding: Waiting | null) => void
}

/** Where a finding was seen, and the ways to take a wrong merge apart or to put two findings together. */
export function Sightings({ finding, sources, waiting, wait }: Props) {
  const { act, failed } = useAct()
  const path = { finding: finding.id }
  const joinable = waiting && waiting.id !== finding.id && waiting.category === finding.category ? waiting : null
  return (
    <>
      {finding.sightings.map((sighting) => (
        <Sighting
          key={sighting.id}
          sighting={sighting}
          source={sources.find((source) => source.id === sighting.sourceId)}
          best={finding.sightings.find(({ id }) => id === finding.bestSightingId)}
          again={() => act(() => ask('POST /api/findings/{finding}/again', { path }))}
          split={
            finding.sightings.length > 1
              ? () => act(() => ask('POST /api/sightings/{sighting}/split', { path: { sighting: sighting.id } }))
              : undefined
          }
        />
      ))}
      {joinable ? (
        <p className="space-x-3 text-sm">
          <button
            type="button"
            className="button"
            onClick={() => {
              wait(null)
              act(() => ask('POST /api/findings/{finding}/join', { path, body: { other: joinable.id } }))
            }}
          >
            Join with “{joinable.title.slice(0, 30)}”
          </button>
          <button type="button" className="text-accent underline" onClick={() => wait(null)}>
            Not that one
          </button>
        </p>
      ) : (
        <button
          type="button"
          className="text-sm text-accent underline"
          onClick={() => wait({ id: finding.id, title: finding.title, category: finding.category })}
        >
          {waiting?.id === finding.id ? 'Now select the finding that is the same' : 'Join with another finding'}
        </button>
      )}
      <Failure className="mt-2">{failed}</Failure>
    </>
  )
}

const PLACES: Record<Origin['place'], string> = {
  live: 'a row of the database',
  file: 'a file of its own',
  freelist: 'a free page of the database',
  freeblock: 'freed space inside a page',
  gap: 'unused space inside a page',
  wal: 'the write-ahead log',
  journal: 'the rollback journal',
  dropped: 'pages of a dropped table',
  carved: 'cut out of opaque bytes',
  other: 'elsewhere in the file',
}

function insideAddress({ id, jobId }: Wire<Source>, { domain, path, page, offset, place }: Origin): string {
  const file = place === 'wal' || place === 'journal' ? place : 'database'
  const where = new URLSearchParams({ source: `${id}`, domain, path, page: `${page}`, file, offset: `${offset}` })
  return `/jobs/${jobId}/inside?${where}`
}

function Sighting({
  sighting,
  source,
  best,
  split,
  again,
}: {
  sighting: SightingDetail
  /** The copy that is shown; others may say something else. */
  best: SightingDetail | undefined
  source: Wire<Source> | undefined
  /** Undefined: it is the only one. */
  split: (() => void) | undefined
  /** Looks for its content once more. */
  again: () => void
}) {
  const { origin } = sighting
  return (
    <div className="mb-3 border-l-2 border-rule pl-3 text-sm">
      <p>
        {sighting.condition} in {source?.info.deviceName ?? 'a source'}, state of{' '}
        <Moment at={source?.takenAt ?? null} />
      </p>
      <p className="text-soft">
        {PLACES[origin.place]}
        {origin.table ? `, table ${origin.table}` : ''}
        {origin.rowid === null ? '' : `, row ${origin.rowid}`}
        {sighting.confidence < 1 && `, ${Math.round(sighting.confidence * 100)}% sure`}
      </p>
      {origin.reasons && sighting.confidence < 1 && <p className="text-soft">{origin.reasons.join('; ')}</p>}
      {sighting.missing.length > 0 && <p className="text-soft">lost: {sighting.missing.join(', ')}</p>}
      <p className="font-mono break-all text-soft">
        {origin.domain}/{origin.path}
        {origin.offset === null ? '' : ` @ ${origin.offset}`}
      </p>
      {split && <p className="text-soft">joined by {JOINED_BY_WORDS[sighting.joinedBy]}</p>}
      {CONTENT_STATE_WORDS[sighting.contentState] && (
        <p>
          content: {CONTENT_STATE_WORDS[sighting.contentState]}{' '}
          {RETRIABLE.includes(sighting.contentState) && (
            <button type="button" className="text-accent underline" onClick={again}>
              Try again
            </button>
          )}
        </p>
      )}
      {best && best.version !== sighting.version && <Different sighting={sighting} best={best} />}
      <p className="flex gap-4">
        {origin.page !== null && source && (
          <a className="text-accent underline" href={insideAddress(source, origin)}>
            Show the bytes
          </a>
        )}
        {split && (
          <button type="button" className="text-accent underline" onClick={split}>
            Split off
          </button>
        )}
      </p>
    </div>
  )
}

const NOT_COMPARED = [
  'fileBytes',
  'daysLeft',
  'binnedAt',
  'contentMissing',
  'secretAt',
  'reactions',
  'paragraphs',
  'attachments',
]

/** What a sighting says otherwise than the copy that is shown. */
function Different({ sighting, best }: { sighting: SightingDetail; best: SightingDetail }) {
  const names = [...new Set([...Object.keys(sighting.fields), ...Object.keys(best.fields)])].filter(
    (name) =>
      !NOT_COMPARED.includes(name) && JSON.stringify(sighting.fields[name]) !== JSON.stringify(best.fields[name]),
  )
  if (names.length === 0) return null
  return (
    <ul className="private mt-1 border-l-2 border-binned pl-2">
      {names.slice(0, 8).map((name) => (
        <li key={name} dir="auto" className="break-words">
          <span className="text-soft">{name}: </span>
          {sighting.fields[name] == null ? 'absent here' : JSON.stringify(sighting.fields[name]).slice(0, 200)}
        </li>
      ))}
    </ul>
  )
}
