import { PICTURE_CATEGORIES } from '@lumbrin/core/categories/registry'
import type { Standing } from '@lumbrin/core/findings/standing'
import { thumbnailAddress } from '../../components/addresses'
import { StandingMark } from '../../components/StandingMark'
import { ItemTime, useTimes } from '../../components/times'
import type { Matches } from '../../domain/answer'
import type { FindingLine } from '../../domain/finding'
import { plural } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'

const LINES = 5

interface Props {
  jobId: number
  matches: readonly Matches[]
  /** Those that the matches have. */
  standings: readonly Standing[]
}

/** The strongest matches of each category, each of which opens in Findings. */
export function Strongest({ jobId, matches, standings }: Props) {
  return matches.map((of) => {
    const query = new URLSearchParams({
      category: of.category,
      matching: 'true',
      standings: standings.join(','),
    })
    const address = `/jobs/${jobId}/findings?${query}`
    const Shown = PICTURE_CATEGORIES.includes(of.category) || of.category === 'videos' ? Pictures : Lines
    return (
      <section key={of.category} aria-label={CATEGORY_LABELS[of.category]} className="mt-5">
        <div className="flex items-baseline gap-3 border-b border-rule pb-1">
          <h2>{CATEGORY_LABELS[of.category]}</h2>
          <span className="text-soft">{plural(of.count, 'match', 'matches')}</span>
          <a className="ml-auto text-accent underline underline-offset-2" href={address}>
            {of.count === 1 ? 'Look at it' : `Look at all ${of.count}`}
          </a>
        </div>
        <Shown lines={of.best} address={address} />
      </section>
    )
  })
}

interface ShownProps {
  lines: readonly FindingLine[]
  address: string
}

function Pictures({ lines, address }: ShownProps) {
  const { ofItem } = useTimes()
  return (
    <ul className="mt-2 flex flex-wrap gap-2">
      {lines.map((line) => (
        <li key={line.id}>
          <a
            href={`${address}&finding=${line.id}`}
            aria-label={`${line.title || 'Without a name'}, ${ofItem(line)}`}
            className="block w-24"
          >
            <span className="private block h-24 overflow-hidden rounded-sm bg-sunk">
              {line.hasContent ? (
                <img src={thumbnailAddress(line.id)} alt="" className="h-full w-full object-cover" loading="lazy" />
              ) : (
                <span className="block p-2 text-sm text-soft">the picture itself is gone</span>
              )}
            </span>
            <span className="mt-0.5 flex items-center gap-1 text-xs text-soft">
              <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
              {ofItem(line).slice(0, 10)}
            </span>
          </a>
        </li>
      ))}
    </ul>
  )
}

function Lines({ lines, address }: ShownProps) {
  return (
    <ul>
      {lines.slice(0, LINES).map((line) => (
        <li key={line.id} className="border-b border-rule">
          <a
            href={`${address}&finding=${line.id}`}
            className="grid grid-cols-[1.25rem_8.5rem_11rem_minmax(0,1fr)] items-center gap-3 py-1.5 hover:bg-sunk"
          >
            <StandingMark standing={line.standing} binnedAt={line.binnedAt} />
            <span className="text-soft">
              <ItemTime item={line} />
            </span>
            <span className="private truncate">{line.title || 'Without a name'}</span>
            <span className="private truncate" dir="auto">
              {line.text ?? ''}
            </span>
          </a>
        </li>
      ))}
    </ul>
  )
}
