import type { Json } from '@lumbrin/core/categories/types'
import { Highlighted } from './Highlighted'

interface Props {
  fields: { [key: string]: Json }
  text: string | null
  /** Words of a search, which are marked. */
  words: string
  /** Its text is known to have been there, and is gone. */
  overwritten: boolean
}

/** What a message says, what became of it, and how others took it. */
export function MessageWords({ fields, text, words, overwritten }: Props) {
  const event = typeof fields.event === 'string' ? fields.event : null
  const reactions = recordsOf<{ kind: string; emoji?: string | null; sender?: string | null }>(fields.reactions)
  return (
    <>
      {event && <p className="text-soft italic">{[event, fields.eventTitle].filter(Boolean).join(': ')}</p>}
      {text !== null && (
        <p dir="auto" className="break-words whitespace-pre-wrap">
          <Highlighted text={text} words={words} />
        </p>
      )}
      {text === null && overwritten && <p className="text-soft italic">its text was overwritten</p>}
      <Past fields={fields} />
      {reactions.length > 0 && (
        <p className="text-sm text-soft">{reactions.map(({ kind, emoji }) => emoji ?? kind).join(', ')}</p>
      )}
    </>
  )
}

const recordsOf = <Of,>(value: Json | undefined): Of[] => (Array.isArray(value) ? value : []) as Of[]

/** What became of a message: earlier wordings, or taken back. */
function Past({ fields }: Pick<Props, 'fields'>) {
  const versions = recordsOf<{ text: string; at: string | null }>(fields.versions)
  return (
    <>
      {versions.map(({ text, at }) => (
        <p key={`${at} ${text}`} dir="auto" className="mt-1 border-l-2 border-rule pl-2 text-sm break-words text-soft">
          before: {text}
        </p>
      ))}
      {(fields.unsent === true || fields.withdrawn === true) && (
        <p className="text-sm text-soft italic">its sender took it back</p>
      )}
    </>
  )
}
