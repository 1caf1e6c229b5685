import type { Likelihood, RouteStep } from '@lumbrin/core/findings/route-facts'
import { plural } from '../../components/format'
import type { JobRoute } from '../../services/route'

const LIKELY: Record<Likelihood, string> = {
  likely: 'likely to help',
  possible: 'may help',
  unlikely: 'seldom helps',
  none: 'cannot help',
}
const ANSWER = { found: 'Found', 'found in part': 'Found in part', 'not found': 'Not found yet' } as const

/** The next steps of a job, the best first, and how far the brief is answered. */
export function RoutePanel({ route, jobId, failed }: { route: JobRoute; jobId: number; failed: string }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
    <section aria-label="Route" className="overflow-auto border-l border-rule bg-sunk/40 p-5" tabIndex={0}>
      <h2 className="text-lg">Route</h2>
      <p className="mt-1">
        <strong>{ANSWER[route.answer.answer]}.</strong> {route.answer.why}
      </p>
      {failed && (
        <p className="notice notice-bad mt-2" role="alert">
          {failed}
        </p>
      )}
      <ol className="mt-4 space-y-4">
        {route.steps.map((step, i) => (
          <Step key={`${step.rule} ${step.sourceId}`} step={step} number={i + 1} jobId={jobId} />
        ))}
      </ol>
      <p className="mt-5 text-sm text-soft">
        The order follows from the brief, the sources and what was found. How long bins keep things is common practice,
        not a promise.
      </p>
    </section>
  )
}

function Step({ step, number, jobId }: { step: RouteStep; number: number; jobId: number }) {
  return (
    <li className="grid grid-cols-[1.75rem_minmax(0,1fr)]">
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
        {step.sourceId !== null && (
          <a className="text-sm text-accent underline underline-offset-2" href={`/jobs/${jobId}/sources`}>
            Go to the sources
          </a>
        )}
      </div>
    </li>
  )
}
