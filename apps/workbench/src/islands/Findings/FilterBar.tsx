import type { CategoryId } from '@lumbrin/core/categories/registry'
import { LOST_STANDINGS, STANDINGS, type Standing } from '@lumbrin/core/findings/standing'
import { LostOrAll } from '../../components/LostOrAll'
import { StandingMark } from '../../components/StandingMark'
import type { Facets } from '../../domain/finding'
import { type FindingsQuery, TILES, type Tiles } from '../../domain/findings-query'
import { formatCount } from '../../domain/format'
import { LAYOUT_LABELS, type Layout, layoutsOf } from '../../domain/layouts'
import { CategoryBar } from './CategoryBar'
import { SavedViews } from './SavedViews'
import { SearchField, SearchProblems } from './SearchField'
import type { Tray } from './useTray'

interface Props {
  jobId: number
  /** The layout that is shown. */
  view: Layout
  query: FindingsQuery
  change: (part: Partial<FindingsQuery>) => void
  /** Null: they are being counted. */
  facets: Facets | null
  fresh: { count: number; show: () => void }
  tray: Tray
}

/** Categories, standings and search. */
export function FilterBar({ jobId, view, query, change, facets, fresh, tray }: Props) {
  const counts = facets && (facets[query.category] ?? {})
  const lostOnly = isLostOnly(query)
  // From all, or from all that is lost, a standing is picked out; from then on each is added or taken away.
  const toggle = (standing: Standing) => {
    const now = lostOnly ? [] : query.standings
    change({ standings: now.includes(standing) ? now.filter((one) => one !== standing) : [...now, standing] })
  }
  const present = STANDINGS.filter(
    (standing) => counts?.[standing] || (!lostOnly && query.standings.includes(standing)),
  )
  return (
    <div className="shrink-0 border-b border-rule">
      <CategoryBar facets={facets} current={query.category} pick={(category) => change(placeOf(category))} />
      <div className="flex flex-wrap items-center gap-2 px-5 py-1.5">
        <LostOrAll
          lost={lostOnly ? true : query.standings.length === 0 ? false : null}
          change={(lost) => change({ standings: lost ? [...LOST_STANDINGS] : [] })}
        />
        {present.map((standing) => (
          <button
            key={standing}
            type="button"
            className="chip"
            aria-pressed={!lostOnly && query.standings.includes(standing)}
            onClick={() => toggle(standing)}
          >
            <StandingMark standing={standing} label />{' '}
            <span className="text-soft">{counts ? formatCount(counts[standing] ?? 0) : '…'}</span>
          </button>
        ))}
        <button
          type="button"
          className="chip"
          aria-pressed={query.matching}
          onClick={() => change({ matching: !query.matching })}
        >
          matches the brief
        </button>
        {fresh.count > 0 && (
          <button type="button" className="button ml-3" onClick={fresh.show}>
            Show {formatCount(fresh.count)} new
          </button>
        )}
        <span className="ml-auto" />
        <button
          type="button"
          className="button"
          // A conversation is chosen at its own head.
          onClick={() => tray.all(view === 'conversations' ? { ...query, conversation: null } : query)}
        >
          Put all in the tray
        </button>
        {view === 'grid' && (
          <button
            type="button"
            className="chip"
            aria-pressed={query.folding}
            onClick={() => change({ folding: !query.folding })}
            title="Pictures that look the same lie under the first of them"
          >
            fold look-alikes
          </button>
        )}
        <LayoutSelect view={view} query={query} change={change} />
        <SavedViews jobId={jobId} query={query} change={change} />
        <SearchField jobId={jobId} query={query} change={(words) => change({ words })} />
      </div>
      <SearchProblems words={query.words} />
      {query.compared && <ComparedNote compared={query.compared} clear={() => change({ compared: null })} />}
    </div>
  )
}

/** Ways to lay findings out; grids with tiles of each size. */
function LayoutSelect({ view, query, change }: Pick<Props, 'view' | 'query' | 'change'>) {
  const pick = (value: string) => {
    const [layout, tiles] = value.split(' ') as [Layout, Tiles | undefined]
    change({ layout, ...(tiles ? { tiles } : {}) })
  }
  return (
    <select
      className="field !w-auto"
      aria-label="Layout"
      value={view === 'grid' ? `grid ${query.tiles}` : view}
      onChange={({ target }) => pick(target.value)}
    >
      {layoutsOf(query.category).flatMap((layout) =>
        layout === 'grid' ? (
          TILES.map((tiles) => (
            <option key={tiles} value={`grid ${tiles}`}>
              {tiles === 'medium' ? LAYOUT_LABELS.grid : `${LAYOUT_LABELS.grid}, ${tiles}`}
            </option>
          ))
        ) : (
          <option key={layout} value={layout}>
            {LAYOUT_LABELS[layout]}
          </option>
        ),
      )}
    </select>
  )
}

const isLostOnly = ({ standings }: FindingsQuery) =>
  standings.length === LOST_STANDINGS.length && standings.every((one) => LOST_STANDINGS.includes(one))

/** Where another category is begun with: what was open of the one before is closed. */
const placeOf = (category: CategoryId): Partial<FindingsQuery> => ({
  category,
  conversation: null,
  layout: null,
  month: null,
  // What the brief asks for is mostly of one kind.
  matching: false,
})

const PARTS: Record<string, string> = {
  'comes-back': 'what a restore would bring back',
  wiped: 'what a restore would wipe',
  changed: 'what a restore would set back to an earlier state',
  both: 'what both sources show',
}

/** Says that only a part of a comparison is shown. */
function ComparedNote({ compared, clear }: { compared: string; clear: () => void }) {
  return (
    <p className="flex items-baseline gap-3 border-t border-rule px-5 py-1.5 text-sm">
      Shown: {PARTS[compared.split(',')[2] ?? '']}.
      <button type="button" className="text-accent underline underline-offset-2" onClick={clear}>
        Show everything again
      </button>
    </p>
  )
}
