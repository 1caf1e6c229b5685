import { Moment } from '../../components/times'
import { formatCount, plural } from '../../domain/format'
import type { ReadState } from '../../domain/read-states'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

interface Props {
  jobId: number
  sources: readonly Wire<Source>[]
  reads: readonly Wire<Read>[]
}

/** How the reads of a job stand, in the order in which they are told. */
const STANDS: readonly [words: string, states: readonly ReadState[]][] = [
  ['done', ['done']],
  ['done with gaps', ['gaps']],
  ['at work', ['running', 'stopping']],
  ['in the queue', ['queued']],
  ['waiting', ['away']],
  ['stopped', ['stopped']],
  ['failed', ['failed']],
]
const NEEDS_A_HAND: readonly ReadState[] = ['away', 'failed', 'gaps']

/** What came of many reads, for whoever was not there: how many are done, and which need a hand, with the reason. */
export function ReadSummary({ jobId, sources, reads }: Props) {
  if (reads.length === 0) return null
  const items = reads.reduce((sum, { steps }) => sum + steps.reduce((all, { done }) => all + done, 0), 0)
  const stands = STANDS.flatMap(([words, states]) => {
    const count = reads.filter(({ state }) => states.includes(state)).length
    return count > 0 ? `${formatCount(count)} ${words}` : []
  }).concat(`${plural(items, 'item')} read`)
  const stuck = reads.filter(({ state }) => NEEDS_A_HAND.includes(state))
  return (
    <section aria-label="What came of the reads" className="space-y-2">
      <h2>{plural(reads.length, 'read')} of this job</h2>
      <p>{stands.join(' · ')}</p>
      {stuck.length > 0 && (
        <>
          <h3 className="font-semibold">Need a hand</h3>
          <ul className="space-y-2 text-sm">
            {stuck.map((read) => {
              const source = sources.find(({ id }) => id === read.sourceId)
              return (
                <li key={read.id} className="border-l-2 border-partial pl-3">
                  <a
                    className="text-accent underline underline-offset-2"
                    href={`/jobs/${jobId}/sources#source-${read.sourceId}`}
                  >
                    {source?.info.deviceName ?? 'Unnamed device'}, <Moment at={source?.takenAt ?? null} />
                  </a>
                  <span className="block">{whyOf(read)}</span>
                </li>
              )
            })}
          </ul>
        </>
      )}
    </section>
  )
}

function whyOf({ error, waitsFor, warnings: [first] }: Wire<Read>): string {
  if (first && !error && !waitsFor) return `${first.path ? `${first.path}: ` : ''}${first.message}`
  return error ?? waitsFor ?? 'Some of what it lists could not be had.'
}
