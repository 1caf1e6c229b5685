import { useEffect, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import type { FindingsQuery } from '../../domain/findings-query'
import { OPERATORS, parseSearch } from '../../domain/search-text'
import { useSuggestions } from './useFindings'

const PAUSE_MS = 250

interface Props {
  jobId: number
  query: FindingsQuery
  change: (words: string) => void
}

/** The field for words and operators; what it proposes finds something. */
export function SearchField({ jobId, query: { words, ...query }, change }: Props) {
  const [text, setText] = useState(words)
  const field = useRef<HTMLInputElement>(null)
  const suggestions = useSuggestions(jobId, { words, ...query }).data
  useEffect(() => {
    const timer = setTimeout(() => text !== words && change(text), PAUSE_MS)
    return () => clearTimeout(timer)
  })
  useHotkeys('/', () => field.current?.focus(), { useKey: true, preventDefault: true })
  const quoted = (name: string) => (/^\S+$/.test(name) ? name : `"${name.replaceAll('"', '')}"`)
  const proposals = suggestions
    ? [
        ...suggestions.from.map((name) => `from:${quoted(name)}`),
        ...suggestions.in.map((name) => `in:${quoted(name)}`),
        ...suggestions.has.map((having) => `has:${having}`),
        ...suggestions.years.map((year) => `after:${year}`),
        ...suggestions.standing.map((standing) => `standing:${standing}`),
      ]
    : []
  return (
    <>
      <input
        ref={field}
        type="search"
        className="field !w-auto max-w-xl min-w-44 flex-1 basis-44"
        placeholder="Search  ( / )"
        title={`Words, and: ${OPERATORS.map(([, example]) => example).join(', ')}`}
        list="search-operators"
        aria-label="Search"
        aria-describedby="search-problems"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <datalist id="search-operators">
        {proposals.map((proposal) => (
          <option key={proposal} value={`${text} ${proposal}`.trim()} />
        ))}
      </datalist>
    </>
  )
}

/** What of a search could not be understood, and is left out of it. */
export function SearchProblems({ words }: { words: string }) {
  const { problems } = parseSearch(words)
  return (
    <div id="search-problems" role="status">
      {problems.map(({ text, why }) => (
        <p key={text} className="border-t border-rule px-5 py-1.5 text-sm">
          <strong className="font-mono">{text}</strong> is left out of this search: {why}.
        </p>
      ))}
    </div>
  )
}
