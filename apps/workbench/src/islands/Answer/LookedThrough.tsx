import type { JobRoute } from '../../domain/route'

/** The sources that an answer rests on: those that were read to the end, and those that were not, with the reasons. */
export function LookedThrough({ answer: { gaps, lookedThrough } }: Pick<JobRoute, 'answer'>) {
  return (
    <section aria-label="What was looked through" className="mt-8 grid grid-cols-2 gap-8">
      <div>
        <h2>Looked through to the end</h2>
        {lookedThrough.length === 0 && <p className="mt-1 text-soft">Nothing yet.</p>}
        <ul className="mt-1 list-disc space-y-0.5 pl-5">
          {lookedThrough.map((words) => (
            <li key={words}>{words}</li>
          ))}
        </ul>
      </div>
      {gaps.length > 0 && (
        <div>
          <h2>Not looked through</h2>
          <ul className="mt-1 list-disc space-y-0.5 pl-5">
            {gaps.map(({ words }) => (
              <li key={words} className="break-words">
                {words}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  )
}
