const STARTS = [
  {
    title: 'A backup lies on this computer',
    words: 'Open a job. It finds the backups by itself, and marks the one that fits the loss.',
    label: 'New job',
    href: '/jobs/new',
  },
  {
    title: 'A phone or tablet is at hand',
    words: 'Attach it with a cable. The Bay says how it stands, and what to do if it does not answer.',
    label: 'Open the Bay',
    href: '/bay',
  },
  {
    title: 'Neither is at hand',
    words: 'Run “npm run demo” in the folder of Lumbrin: it opens beside this one, with sources and jobs to try.',
    label: '',
    href: '',
  },
]

/** What leads on where there is no job yet. */
export function FirstStart() {
  return (
    <div className="max-w-3xl overflow-auto p-5">
      <h1 className="mb-2">No job yet</h1>
      <p>A job holds what one customer lost, on which device and when, and everything that is found for it.</p>
      <dl className="mt-5 space-y-4">
        {STARTS.map(({ title, words, label, href }) => (
          <div key={title} className="border-l-2 border-rule pl-4">
            <dt className="font-semibold">{title}</dt>
            <dd className="mt-0.5">
              {words}
              {href && (
                <a className="button mt-2 block w-fit" href={href}>
                  {label}
                </a>
              )}
            </dd>
          </div>
        ))}
      </dl>
    </div>
  )
}
