import { PICTURE_CATEGORIES } from '@lumbrin/core/categories/registry'
import type { Json } from '@lumbrin/core/categories/types'
import { useState } from 'react'
import { thumbnailAddress } from '../../components/addresses'
import { Failure } from '../../components/Failure.js'
import { STANDING_MEANING, StandingMark } from '../../components/StandingMark'
import type { FindingLine } from '../../domain/finding'
import { formatBytes, formatTime } from '../../domain/format'
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
}: {
  jobId: number
  line: FindingLine | null
  sources: Wire<Source>[]
  choosing: Choosing
}) {
  const detail = useFinding(line?.id ?? null)
  const [waiting, wait] = useState<Waiting | null>(null)
  if (!line)
    return (
      <aside aria-label="Inspector" className="overflow-auto border-l border-rule p-5 text-soft">
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
  return (
    <aside aria-label="Inspector" className="overflow-auto border-l border-rule p-5">
      <h2 className="private break-words">{line.title || 'Without a name'}</h2>
      <p className="mt-1">
        <StandingMark standing={line.standing} binnedAt={line.binnedAt} label />
        <span className="block text-soft">{STANDING_MEANING[line.standing]}</span>
      </p>
      <button type="button" className="button mt-3" onClick={() => choosing.toggle([{ ...line, inTray }])}>
        {inTray ? 'Take out of the tray' : 'Put in the tray'}
      </button>
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
      <h3 className="mt-5 mb-1 font-semibold">Fields</h3>
      <dl className="private grid grid-cols-[8.5rem_minmax(0,1fr)] gap-y-0.5 text-sm">
        <Field name="when (UTC)" value={formatTime(line.when)} />
        <Field name="size" value={formatBytes(line.bytes)} />
        {Object.entries(line.fields)
          .filter(([name, value]) => !SHOWN_ELSEWHERE.includes(name) && isSaid(value))
          .map(([name, value]) => (
            <Field key={name} name={wordsOfName(name)} value={textOf(value)} />
          ))}
      </dl>
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
  'parent',
]

const isSaid = (value: Json) => value !== null && value !== '' && !(Array.isArray(value) && value.length === 0)
const wordsOfName = (name: string) => name.replace(/([A-Z])/g, ' $1').toLowerCase()

function textOf(value: Json): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'string') return /^\d{4}-\d\d-\d\dT/.test(value) ? formatTime(value) : value
  if (typeof value === 'number') return String(Math.round(value * 1e6) / 1e6)
  if (value === null) return ''
  if (!Array.isArray(value)) return recordText(value)
  // Labelled values and addresses stand on a line each, plain ones in one.
  return value.map(textOf).join(value.some((one) => typeof one === 'object') ? '\n' : ', ')
}

function recordText({ label, ...parts }: { [key: string]: Json }): string {
  const entries = Object.entries(parts).filter(([, part]) => isSaid(part))
  const named = label === undefined && entries.length > 1
  const text = entries.map(([name, part]) => (named ? `${wordsOfName(name)} ${textOf(part)}` : textOf(part))).join(', ')
  return typeof label === 'string' ? `${label}: ${text}` : text
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
