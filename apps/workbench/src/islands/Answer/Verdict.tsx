import { useHotkeys } from 'react-hotkeys-hook'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import type { JobAnswer, Matches, MatchKind } from '../../domain/answer'
import { plural } from '../../domain/format'
import { ANSWER_WORDS } from '../../domain/labels'

interface Props {
  jobId: number
  answer: JobAnswer
  /** Something was read of the job. */
  begun: boolean
  /** A read goes on: more may come. */
  reading: boolean
  /** All items in the tray. */
  inTray: number
  edit: () => void
}

const sum = (matches: readonly Matches[], of: 'count' | 'inTray') => matches.reduce((all, one) => all + one[of], 0)

/** How far the brief is answered, in a word and a sentence, with what is to be done with the matches. */
export function Verdict({ jobId, answer, begun, reading, inTray, edit }: Props) {
  const { matches, before, route } = answer
  // What is gone comes first; where nothing is known to be, what was there before the loss.
  const kind: MatchKind = sum(matches, 'count') > 0 ? 'gone' : 'kept'
  const shown = kind === 'gone' ? matches : (before?.matches ?? [])
  const left = sum(shown, 'count') - sum(shown, 'inTray')
  const { head, why } = begun ? wordsOf(answer) : { head: 'Nothing was read yet', why: 'The next step leads on.' }
  return (
    <section aria-label="Answer" data-answer={route.answer.answer}>
      <h2 className="text-xl">{head}</h2>
      <p className="mt-1 max-w-2xl">{why}</p>
      <p className="mt-3 flex flex-wrap items-center gap-3">
        {left > 0 && (
          <PutInTray jobId={jobId} kind={kind} count={left} reading={reading} others={left < sum(shown, 'count')} />
        )}
        {inTray > 0 && <HandOver jobId={jobId} count={inTray} main={left === 0} />}
        <button type="button" className="button" onClick={edit}>
          Change the brief
        </button>
        <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/order`}>
          Work order
        </a>
      </p>
    </section>
  )
}

function wordsOf({ matches, before, route }: JobAnswer): { head: string; why: string } {
  const kept = before ? sum(before.matches, 'count') : 0
  if (!before || kept === 0 || sum(matches, 'count') > 0)
    return { head: ANSWER_WORDS[route.answer.answer], why: route.answer.why }
  return {
    head: 'There before the loss',
    why: `${plural(kept, 'matching item')} in “${before.source}” of ${before.day}, the newest state in this job. Nothing here says whether they are gone since; the owner does.`,
  }
}

interface PutProps {
  jobId: number
  kind: MatchKind
  count: number
  reading: boolean
  /** Some lie in the tray already. */
  others: boolean
}

function PutInTray({ jobId, kind, count, reading, others }: PutProps) {
  const { act, failed, busy } = useAct()
  const put = () => act(() => ask('POST /api/jobs/{job}/tray', { path: { job: jobId }, body: { addMatches: kind } }))
  useHotkeys('m', put, { enabled: !busy })
  const matches = plural(count, 'match', 'matches')
  const what = others ? `the other ${matches}` : count === 1 ? 'the match' : `all ${matches}`
  return (
    <>
      <button
        type="button"
        className={`button ${reading ? '' : 'button-main'}`}
        onClick={put}
        disabled={busy}
        title="M"
        aria-keyshortcuts="m"
      >
        {reading ? `Put the ${matches} found so far in the tray` : `Put ${what} in the tray`}
      </button>
      <Failure>{failed}</Failure>
    </>
  )
}

function HandOver({ jobId, count, main }: { jobId: number; count: number; main: boolean }) {
  const address = `/jobs/${jobId}/handover`
  useHotkeys('h', () => location.assign(address))
  return (
    <a className={`button ${main ? 'button-main' : ''}`} href={address} title="H" aria-keyshortcuts="h">
      Hand over {plural(count, 'item')}
    </a>
  )
}
