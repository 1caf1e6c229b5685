import type { MatchReason } from '@lumbrin/core/findings/match'
import { useTimes } from '../../components/times'
import type { ExplainedFinding } from '../../domain/finding'

const REASONS: Record<MatchReason, string> = {
  category: 'it is of a kind that is sought',
  words: 'a word that is sought stands in it',
  people: 'a person that is sought takes part',
  lost: 'it is gone from the newest source',
  window: 'it went when the loss happened',
}

/** What all sources together say of a finding: when it went, and how well it fits the brief. */
export function Judgement({ finding: { window, match } }: { finding: ExplainedFinding }) {
  const { day } = useTimes()
  return (
    <>
      {window && (
        <>
          <h3 className="mt-5 mb-1 font-semibold">Loss window</h3>
          <p className="text-sm">
            {window.from === null ? 'never seen live' : `last seen live ${day(new Date(window.from).toISOString())}`}
            {window.to !== null && `, gone by ${day(new Date(window.to).toISOString())}`}
          </p>
        </>
      )}
      <h3 className="mt-5 mb-1 font-semibold">Match with the brief: {match.score} of 100</h3>
      {match.reasons.length > 0 ? (
        <ul className="list-disc pl-5 text-sm">
          {match.reasons.map((reason) => (
            <li key={reason}>{REASONS[reason]}</li>
          ))}
        </ul>
      ) : (
        <p className="text-sm text-soft">Nothing that the brief names is in it.</p>
      )}
    </>
  )
}
