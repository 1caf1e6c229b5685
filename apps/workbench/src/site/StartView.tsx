import { LAID_TOGETHER } from '@lumbrin/core/export/site/shapes'
import { STANDINGS } from '@lumbrin/core/findings/standing'
import { formatCount, plural } from '../domain/format'
import { Facts } from './Facts'
import { PageHead, Scrolled } from './Page'
import { linkTo } from './parts'
import { addressOf } from './route'
import { usePackageParts, useStart } from './useParts'

/** The first page: what was asked, what is here, what is not and why, and how to trust it. */
export function StartView() {
  const start = useStart()
  const { title, facts, kinds, notHad, problems, missed, check, meaning, writtenAt, zone } = start
  const all = kinds.reduce((sum, { from, to }) => sum + to - from, 0)
  const lost = kinds.reduce((sum, kind) => sum + kind.lost, 0)
  // As the report counts: what could not be written is no part of what is handed over.
  const countOfAll = [
    `${plural(all - missed, 'item')}, ${formatCount(lost)} of all had been lost`,
    ...(missed > 0 ? [`${plural(missed, 'more', 'more')} without content`] : []),
  ].join('; ')
  return (
    <>
      <PageHead title={title} words={countOfAll} />
      <Scrolled label={title}>
        <div className="max-w-4xl">
          <InParts />
          <Facts facts={facts} />
          <h2 className="pt-6 pb-2">What is here</h2>
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-3">
            {kinds.map((kind) => (
              <li key={kind.id}>
                <a
                  href={addressOf('kind', kind.id)}
                  className="block rounded border border-rule bg-raised px-4 py-3 hover:border-accent"
                >
                  <span className="block font-semibold">{kind.label}</span>
                  <span className="block text-soft">
                    {formatCount(kind.to - kind.from)}
                    {kind.lost > 0 && `, ${formatCount(kind.lost)} had been lost`}
                  </span>
                </a>
              </li>
            ))}
          </ul>
          <Lines title="What was not found, and why" lines={notHad} />
          <Lines
            title={missed > 0 ? `What could not be written: ${plural(missed, 'item')}` : 'What could not be written'}
            lines={problems}
          />
          <h2 className="pt-6 pb-2">What the words mean</h2>
          <Facts facts={STANDINGS.map((standing) => [standing, meaning[standing]])} />
          <Lines title="How to check this package" lines={check} />
          <p className="pt-6 text-soft">
            Written {writtenAt}. Times are those of {zone}; a time’s hint says it in UTC. The{' '}
            <a className="underline" href={linkTo('data/report.html')}>
              report
            </a>{' '}
            (
            <a className="underline" href={linkTo('data/report.pdf')}>
              for printing
            </a>
            ) and a{' '}
            <a className="underline" href={linkTo('data/index.csv')}>
              table of everything
            </a>{' '}
            lie in the folder “data”, and a{' '}
            <a className="underline" href="receipt.pdf">
              receipt to sign
            </a>{' '}
            beside this page.
          </p>
        </div>
      </Scrolled>
    </>
  )
}

function InParts() {
  const { length } = usePackageParts()
  if (length === 0) return null
  return (
    <p className="notice mb-4">
      This package came in {length} parts. {LAID_TOGETHER}
    </p>
  )
}

function Lines({ title, lines }: { title: string; lines: readonly string[] }) {
  if (lines.length === 0) return null
  return (
    <>
      <h2 className="pt-6 pb-2">{title}</h2>
      <ul className="list-disc space-y-1 pl-5">
        {lines.map((line) => (
          <li key={line} dir="auto" className="break-words">
            {line}
          </li>
        ))}
      </ul>
    </>
  )
}
