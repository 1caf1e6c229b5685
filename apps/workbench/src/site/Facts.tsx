import { Fragment, type ReactNode } from 'react'

/** Labels with what they say, a row each. */
export function Facts({ facts }: { facts: readonly (readonly [label: string, value: ReactNode])[] }) {
  return (
    <dl className="grid max-w-3xl grid-cols-[auto_1fr] gap-x-6 gap-y-1">
      {facts.map(([label, value], i) => (
        // Two may have the same label, and none changes its place.
        // biome-ignore lint/suspicious/noArrayIndexKey: see above
        <Fragment key={i}>
          <dt className="text-soft">{label}</dt>
          <dd dir="auto" className="min-w-0 break-words whitespace-pre-wrap">
            {value}
          </dd>
        </Fragment>
      ))}
    </dl>
  )
}
