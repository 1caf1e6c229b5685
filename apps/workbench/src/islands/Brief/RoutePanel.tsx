import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Likelihood, RouteStep } from '@lumbrin/core/findings/route-facts'
import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import { Failure } from '../../components/Failure.js'
import { plural } from '../../domain/format'
import { ANSWER_WORDS } from '../../domain/labels'
import type { JobRoute } from '../../domain/route'
import { StepAction } from './StepAction'

const LIKELY: Record<Likelihood, string> = {
  likely: 'likely to help',
  possible: 'may help',
  unlikely: 'seldom helps',
  none: 'cannot help',
}
interface Props {
  route: JobRoute
  jobId: number
  wanted: readonly CategoryId[]
  failed: string
}

/** How far the brief is answered, and the next steps of a job, the best first. */
export function RoutePanel({ route, jobId, wanted, failed }: Props) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
    <section aria-label="Route" className="overflow-auto border-l border-rule bg-sunk/40 p-5" tabIndex={0}>
      <AnswerNote route={route} jobId={jobId} wanted={wanted} />
      <Failure className="mt-2">{failed}</Failure>
      <h2 className="mt-6 text-lg">Route</h2>
      <ol className="mt-2 space-y-4">
        {route.steps.map((step, i) => (
          <Step
            key={`${step.rule} ${step.sourceId} ${step.do}`}
            step={step}
            number={i + 1}
            jobId={jobId}
            wanted={wanted}
            newestSourceId={route.newestSourceId}
          />
        ))}
      </ol>
      {route.steps.length === 0 && <p className="text-soft">No step is left that is known to help.</p>}
      <p className="mt-5 text-sm text-soft">
        The order follows from the brief, the sources and what was found. How long bins keep things is common practice,
        not a promise.
      </p>
    </section>
  )
}

/** The answer to the brief with what it rests on: what was looked through, and what was not. */
function AnswerNote({ route: { answer, matching }, jobId, wanted }: Omit<Props, 'failed'>) {
  const lost = matching.binned + matching.earlier + matching.rebuilt + matching.partial
  const query = new URLSearchParams({
    category: wanted[0] ?? 'photos',
    matching: 'true',
    standings: LOST_STANDINGS.join(','),
  })
  return (
    <>
      <h2 className="text-lg" data-answer={answer.answer}>
        {ANSWER_WORDS[answer.answer]}
      </h2>
      <p className="mt-1">{answer.why}</p>
      {lost > 0 && (
        <p className="mt-1">
          <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/findings?${query}`}>
            Open what matches and is gone
          </a>
        </p>
      )}
      {answer.answer !== 'not-found' && answer.lookedThrough.length > 0 && (
        <p className="mt-2 text-sm text-soft">Looked through to the end: {answer.lookedThrough.join(', ')}.</p>
      )}
      {answer.gaps.length > 0 && (
        <details className="mt-1 text-sm">
          <summary className="text-soft">{plural(answer.gaps.length, 'place')} not looked through to the end</summary>
          <ul className="mt-1 list-disc space-y-0.5 pl-5">
            {answer.gaps.map((gap) => (
              <li key={`${gap.kind} ${gap.sourceId} ${gap.words}`}>{gap.words}</li>
            ))}
          </ul>
        </details>
      )}
    </>
  )
}

interface StepProps {
  step: RouteStep
  number: number
  jobId: number
  wanted: readonly CategoryId[]
  newestSourceId: number | null
}

function Step({ step, number, jobId, wanted, newestSourceId }: StepProps) {
  return (
    <li className="grid grid-cols-[1.75rem_minmax(0,1fr)]" data-rule={step.rule}>
      <span className="figure pt-px text-soft">{number}</span>
      <div>
        <p className="font-semibold">{step.do}</p>
        <p className="text-soft">{step.why}</p>
        <p className="mt-0.5 text-sm">
          <span className="font-medium">{LIKELY[step.likelihood]}</span> · {step.cost}
          {step.daysLeft !== null && (
            <span className="ml-1 font-semibold text-binned">
              · {step.daysLeft === 0 ? 'may be over any day' : `${plural(step.daysLeft, 'day')} left`}
            </span>
          )}
        </p>
        <StepAction
          jobId={jobId}
          rule={step.rule}
          action={step.action}
          wanted={wanted}
          newestSourceId={newestSourceId}
        />
      </div>
    </li>
  )
}
