import { flagsIn, ID_FIELDS, isSaid, labelOfField, valueOfField } from '@lumbrin/core/categories/field-words'
import { PICTURE_CATEGORIES } from '@lumbrin/core/categories/registry'
import { itemTime } from '@lumbrin/core/findings/item-time'
import { whoIs } from '@lumbrin/core/findings/whom'
import { useState } from 'react'
import { thumbnailAddress } from '../../components/addresses'
import { Failure } from '../../components/Failure.js'
import { STANDING_MEANING, StandingMark } from '../../components/StandingMark'
import { useTimes } from '../../components/times'
import type { FindingLine } from '../../domain/finding'
import { formatBytes } from '../../domain/format'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { Copies } from './Copies'
import type { Choosing } from './choosing'
import { Judgement } from './Judgement'
import { Preview } from './Preview'
import { Sightings, type Waiting } from './Sightings'
import { useFinding } from './useFindings'

/** All that is known of the finding looked at: picture or text, fields, and where each sighting comes from. */
export function Inspector({
  jobId,
  line,
  sources,
  choosing,
  person = null,
}: {
  jobId: number
  line: FindingLine | null
  sources: Wire<Source>[]
  choosing: Choosing
  /** Whose findings the page shows; null: it shows those of all. */
  person?: string | null
}) {
  const detail = useFinding(line?.id ?? null)
  const [waiting, wait] = useState<Waiting | null>(null)
  if (!line)
    return (
      // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
      <aside aria-label="Inspector" tabIndex={0} className="overflow-auto border-l border-rule p-5 text-soft">
        <p>Select a finding to see what is known of it.</p>
        <dl className="mt-4 grid grid-cols-[5rem_1fr] gap-y-1 text-sm">
          {[
            ['arrows', 'move'],
            ['Space', 'into the tray, or out'],
            ['Enter', 'open large'],
            ['/', 'search'],
          ].map(([key, what]) => (
            <div key={key} className="contents">
              <dt className="font-mono">{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </aside>
    )
  // The line is as it was when it was picked; the tray may have changed since.
  const inTray = detail.data?.inTray ?? line.inTray
  const who = whoIs(line)
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
    <aside aria-label="Inspector" tabIndex={0} className="overflow-auto border-l border-rule p-5">
      <h2 className="private break-words">{line.title || 'Without a name'}</h2>
      <p className="mt-1">
        <StandingMark standing={line.standing} binnedAt={line.binnedAt} label />
        <span className="block text-soft">{STANDING_MEANING[line.standing]}</span>
      </p>
      <button type="button" className="button mt-3" onClick={() => choosing.toggle([{ ...line, inTray }])}>
        {inTray ? 'Take out of the tray' : 'Put in the tray'}
      </button>
      {who !== null && who !== person && (
        <a
          className="private mt-2 block truncate text-accent underline underline-offset-2"
          href={`/jobs/${jobId}/people?${new URLSearchParams({ name: who })}`}
        >
          Everything with {who}
        </a>
      )}
      {line.category === 'photos' && line.hasContent && (
        <button
          type="button"
          className="private mt-4 block w-full"
          onClick={() => choosing.enlarge(line)}
          aria-label="Open large"
        >
          <img src={thumbnailAddress(line.id)} alt={line.title} className="w-full rounded-sm" />
        </button>
      )}
      <div className="private">
        <Preview line={line} />
      </div>
      {PICTURE_CATEGORIES.includes(line.category) && <Copies jobId={jobId} line={line} />}
      <Fields line={line} />
      {detail.data && <Judgement finding={detail.data} />}
      <h3 className="mt-5 mb-1 font-semibold">
        {detail.data
          ? `Seen ${detail.data.sightings.length === 1 ? 'once' : `${detail.data.sightings.length} times`}`
          : 'Sightings'}
      </h3>
      <Failure>{detail.error?.message}</Failure>
      {detail.data && <Sightings finding={detail.data} sources={sources} waiting={waiting} wait={wait} />}
    </aside>
  )
}

// The preview shows them, or a view of their own.
const SHOWN_ELSEWHERE = [
  'body',
  'paragraphs',
  'attachments',
  'picture',
  'reactions',
  'secretAt',
  'path',
  'fileBytes',
  'daysLeft',
  'domain',
]

/** What the item says of itself; what only programs understand is folded away. */
function Fields({ line }: { line: FindingLine }) {
  const { zone } = useTimes()
  const said = Object.entries(line.fields).filter(
    ([name, value]) => !SHOWN_ELSEWHERE.includes(name) && isSaid(value) && typeof value !== 'boolean',
  )
  const [ids, plain] = [true, false].map((isId) => said.filter(([name]) => ID_FIELDS.includes(name) === isId))
  const flags = flagsIn(line.fields)
  const grid = 'private grid grid-cols-[8.5rem_minmax(0,1fr)] gap-y-0.5 text-sm'
  return (
    <>
      <h3 className="mt-5 mb-1 font-semibold">Details</h3>
      {flags.length > 0 && <p className="mb-1 text-sm">{flags.join('; ')}</p>}
      <dl className={grid}>
        <Field name="When" value={whenOf(line, zone)} />
        {line.bytes > 0 && <Field name="Size" value={formatBytes(line.bytes)} />}
        {plain?.map(([name, value]) => (
          <Field key={name} name={labelOfField(name)} value={valueOfField(name, value, zone)} />
        ))}
      </dl>
      {ids && ids.length > 0 && (
        <details className="mt-1 text-sm">
          <summary className="text-soft">Ids</summary>
          <dl className={grid}>
            {ids.map(([name, value]) => (
              <Field key={name} name={labelOfField(name)} value={valueOfField(name, value, zone)} />
            ))}
          </dl>
        </details>
      )}
    </>
  )
}

/** By the clocks of the job's zone, with UTC beside it where that says something else. */
function whenOf(line: FindingLine, zone: string): string {
  const local = itemTime(line, zone)
  const utc = itemTime(line, 'UTC')
  if (local === null) return 'no date'
  return local === utc ? local : `${local}\n${utc} UTC`
}

function Field({ name, value }: { name: string; value: string }) {
  return (
    <>
      <dt className="text-soft">{name}</dt>
      <dd dir="auto" className="break-words whitespace-pre-line">
        {value}
      </dd>
    </>
  )
}
