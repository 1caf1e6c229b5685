import { RETRIABLE } from '@lumbrin/core/categories/content-states'
import { missingContents, type StepAccount, skippedIn } from '@lumbrin/core/categories/step-account'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatCount, plural } from '../../domain/format'
import { CATEGORY_LABELS, CONTENT_STATE_WORDS, PASS_WORDS, STORE_STATE_WORDS } from '../../domain/labels'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

type Step = Wire<Read>['steps'][number]

/** The latest account of each category and pass of a source. */
function latestSteps(reads: readonly Wire<Read>[]): Step[] {
  const latest = new Map<string, Step>()
  for (const read of [...reads].sort((a, b) => a.id - b.id))
    for (const step of read.steps) if (step.account) latest.set(`${step.category}/${step.pass}`, step)
  return [...latest.values()]
}

/** What of a source could not be had, with the reasons, and the way to try again. Nothing where nothing is missing. */
export function ReadAccount({ source, reads }: { source: Wire<Source>; reads: readonly Wire<Read>[] }) {
  const { time } = useTimes()
  const { act, failed } = useAct()
  const lines = latestSteps(reads).flatMap((step) => (step.account ? linesOf(step, step.account) : []))
  if (lines.length === 0) return null
  const retriable = lines.some((line) => line.retriable)
  const again = () => act(() => ask('POST /api/sources/{source}/again', { path: { source: source.id } }))
  return (
    <section
      aria-label={`What could not be had of ${source.info.deviceName ?? source.path}, ${time(source.takenAt)}`}
      className="border-l-2 border-binned pl-4"
    >
      <div className="flex items-center gap-3">
        <strong>What could not be had</strong>
        {retriable && (
          <button type="button" className="button" onClick={again}>
            Try again what is missing
          </button>
        )}
      </div>
      <ul className="mt-1 grid grid-cols-2 gap-x-8">
        {lines.map(({ key, label, words }) => (
          <li key={key}>
            {label}: <span className="text-soft">{words}</span>
          </li>
        ))}
      </ul>
      <Failure className="mt-2">{failed}</Failure>
    </section>
  )
}

interface Line {
  key: string
  label: string
  words: string
  retriable: boolean
}

function linesOf({ category, pass }: Step, account: StepAccount): Line[] {
  const label = `${CATEGORY_LABELS[category]}${pass === 'live' ? '' : `, ${PASS_WORDS[pass]}`}`
  const line = (words: string, retriable: boolean): Line => ({
    key: `${category}/${pass}/${words}`,
    label,
    words,
    retriable,
  })
  // That a source holds none of a store is said once, of what it shows.
  const stores = Object.entries(account.stores).flatMap(([name, state]) =>
    STORE_STATE_WORDS[state] && (pass === 'live' || state !== 'absent') && !(name && state === 'absent')
      ? [line(`${name ? `${name}: ` : ''}${STORE_STATE_WORDS[state]}`, state !== 'absent')]
      : [],
  )
  return [
    ...stores,
    ...(skippedIn(account) > 0 ? [line(skippedWords(account), true)] : []),
    ...missingContents(account).map(([state, count]) =>
      line(`${formatCount(count)} without content: ${CONTENT_STATE_WORDS[state]}`, RETRIABLE.includes(state)),
    ),
  ]
}

const skippedWords = ({ rowsSkipped, pagesSkipped, filesSkipped = 0 }: StepAccount): string =>
  [
    rowsSkipped > 0 && plural(rowsSkipped, 'damaged row'),
    pagesSkipped > 0 && plural(pagesSkipped, 'damaged page'),
    filesSkipped > 0 && plural(filesSkipped, 'file that cannot be read', 'files that cannot be read'),
  ]
    .filter(Boolean)
    .join(', ')
