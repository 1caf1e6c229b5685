import type { CategoryId } from '@lumbrin/core/categories/registry'
import type { Likelihood, RouteStep } from '@lumbrin/core/findings/route-facts'
import { plural } from '../../domain/format'
import type { Loss } from '../../domain/loss'
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
  loss: Loss
}

/** The step that leads on: the first that is done at this computer and is no look at what was found. */
const leads = ({ action }: RouteStep) => action.kind !== 'by-hand' && action.kind !== 'open'

const leadOf = ({ steps }: JobRoute) => steps.find(leads)

/** The step that leads on, with its action. `strong`: nothing on the page matters more. */
export function NextStep({ route, strong, ...shared }: Props & { strong: boolean }) {
  const next = leadOf(route)
  if (!next) return null
  return (
    <section
      aria-label="Next step"
      className="mt-4 max-w-2xl border-l-4 border-accent bg-raised px-4 py-3"
      data-rule={next.rule}
    >
      <Words step={next} />
      <StepAction
        key={keyOf(next)}
        rule={next.rule}
        action={next.action}
        newestSourceId={route.newestSourceId}
        main
        strong={strong}
        {...shared}
      />
    </section>
  )
}

/** The steps behind the next one, the best first. */
export function Route({ route, ...shared }: Props) {
  const next = leadOf(route)
  // What was found stands beside it.
  const others = route.steps.filter((step) => step !== next && step.action.kind !== 'open')
  return (
    <>
      <h2 className="text-lg">{next ? 'After that' : 'Route'}</h2>
      <ol className="mt-2 space-y-4">
        {others.map((step, i) => (
          <li key={keyOf(step)} className="grid grid-cols-[1.5rem_minmax(0,1fr)]" data-rule={step.rule}>
            <span className="font-semibold text-soft">{i + 1}</span>
            <div>
              <Words step={step} />
              <StepAction rule={step.rule} action={step.action} newestSourceId={route.newestSourceId} {...shared} />
            </div>
          </li>
        ))}
      </ol>
      {others.length === 0 && <p className="mt-1 text-soft">No step is left that is known to help.</p>}
      <p className="mt-5 text-sm text-soft">
        The order follows from the brief, the sources and what was found. How long bins keep things is common practice,
        not a promise.
      </p>
    </>
  )
}

const keyOf = (step: RouteStep) => `${step.rule} ${step.sourceId} ${step.do}`

function Words({ step }: { step: RouteStep }) {
  return (
    <>
      <p className="font-semibold">{step.do}</p>
      <p>{step.why}</p>
      <p className="text-sm text-soft">
        {LIKELY[step.likelihood]} · {step.cost}
        {step.daysLeft !== null && (
          <span className="font-semibold text-binned">
            {' '}
            · {step.daysLeft === 0 ? 'may be over any day' : `${plural(step.daysLeft, 'day')} left`}
          </span>
        )}
      </p>
    </>
  )
}
