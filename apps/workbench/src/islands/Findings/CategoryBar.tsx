import { type CategoryId, categoriesIn, definitionOf, GROUPS, type Group } from '@lumbrin/core/categories/registry'
import { LOST_STANDINGS } from '@lumbrin/core/findings/standing'
import type { Facets } from '../../domain/finding'
import { formatCount } from '../../domain/format'
import { CATEGORY_LABELS, GROUP_LABELS } from '../../domain/labels'

interface Props {
  /** Null: they are being counted. */
  facets: Facets | null
  current: CategoryId
  pick: (category: CategoryId) => void
}

interface Counts {
  all: number
  lost: number
}

function countsOf(facets: Facets | null, category: CategoryId): Counts {
  const counts = facets?.[category] ?? {}
  return {
    all: Object.values(counts).reduce((sum, count) => sum + count, 0),
    lost: LOST_STANDINGS.reduce((sum, standing) => sum + (counts[standing] ?? 0), 0),
  }
}

/** The categories in their groups: a line of groups, and a line of what the group at hand holds. */
export function CategoryBar({ facets, current, pick }: Props) {
  const isShown = (id: CategoryId) => Boolean(facets?.[id]) || id === current
  const group = definitionOf(current).group
  const groups = GROUPS.filter((one) => categoriesIn(one).some(isShown))
  return (
    <nav aria-label="Categories" className="border-b border-rule px-4">
      <ul className="flex flex-wrap gap-x-1 border-b border-rule pt-1">
        {groups.map((one) => (
          <li key={one}>
            <GroupTab
              group={one}
              counts={sumOf(categoriesIn(one).map((id) => countsOf(facets, id)))}
              known={facets !== null}
              current={one === group}
              pick={() => pick(strongestOf(one, facets))}
            />
          </li>
        ))}
      </ul>
      <ul className="flex flex-wrap gap-x-1 py-1">
        {categoriesIn(group)
          .filter(isShown)
          .map((id) => (
            <li key={id}>
              <button
                type="button"
                onClick={() => pick(id)}
                aria-current={id === current ? 'true' : undefined}
                className="rounded px-2.5 py-0.5 hover:bg-sunk aria-[current]:bg-wash aria-[current]:font-semibold"
              >
                {CATEGORY_LABELS[id]} <Figures counts={countsOf(facets, id)} known={facets !== null} />
              </button>
            </li>
          ))}
      </ul>
    </nav>
  )
}

const sumOf = (counts: Counts[]): Counts =>
  counts.reduce((sum, one) => ({ all: sum.all + one.all, lost: sum.lost + one.lost }), { all: 0, lost: 0 })

/** What a group opens on: where most was lost, else where most is. */
function strongestOf(group: Group, facets: Facets | null): CategoryId {
  const ranked = categoriesIn(group).map((id) => ({ id, ...countsOf(facets, id) }))
  ranked.sort((a, b) => b.lost - a.lost || b.all - a.all)
  return (ranked[0]?.id ?? categoriesIn(group)[0]) as CategoryId
}

interface GroupTabProps {
  group: Group
  counts: Counts
  known: boolean
  current: boolean
  pick: () => void
}

function GroupTab({ group, counts, known, current, pick }: GroupTabProps) {
  return (
    <button
      type="button"
      onClick={() => !current && pick()}
      aria-expanded={current}
      className="border-b-2 border-transparent px-2.5 pb-0.5 text-soft hover:text-ink aria-expanded:border-accent aria-expanded:text-ink"
    >
      {GROUP_LABELS[group]} <Figures counts={counts} known={known} />
    </button>
  )
}

/** How many there are, and how many of them are lost. */
function Figures({ counts: { all, lost }, known }: { counts: Counts; known: boolean }) {
  return (
    <span className="text-sm font-normal text-soft">
      {known ? formatCount(all) : '…'}
      {lost > 0 && `, ${formatCount(lost)} lost`}
    </span>
  )
}
