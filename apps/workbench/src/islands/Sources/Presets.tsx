import { type CategoryId, categoriesIn, GROUPS, PICTURE_CATEGORIES } from '@lumbrin/core/categories/registry'
import { plural } from '../../domain/format'
import { CATEGORY_LABELS, GROUP_LABELS } from '../../domain/labels'
import { Choices } from './Choices'

export type PresetId = 'brief' | 'everything' | 'pictures' | 'people' | 'chosen'

/** What a read takes in, under a name. */
export interface Preset {
  id: PresetId
  label: string
  categories: readonly CategoryId[]
}

const FILMS: readonly CategoryId[] = ['videos', 'app-videos']

/** The presets that have something to read still; what the brief asks for comes first. */
export function presetsOf(unread: readonly CategoryId[], wanted: readonly CategoryId[]): Preset[] {
  const of = (id: PresetId, label: string, categories: readonly CategoryId[]): Preset => ({
    id,
    label,
    categories: categories.filter((one) => unread.includes(one)),
  })
  return [
    of('brief', 'As the brief says', wanted),
    of('everything', 'Everything', unread),
    of('pictures', 'Pictures and film', [...PICTURE_CATEGORIES, ...FILMS]),
    of('people', GROUP_LABELS.people, categoriesIn('people')),
  ].filter(({ categories }) => categories.length > 0)
}

interface Props {
  presets: readonly Preset[]
  chosen: PresetId
  choose: (preset: PresetId) => void
}

/** One of the presets, or kinds that are chosen one by one. */
export function Presets({ presets, chosen, choose }: Props) {
  const all = [...presets, { id: 'chosen' as const, label: 'Chosen kinds', categories: [] }]
  return (
    <fieldset className="flex flex-wrap gap-2">
      <legend className="sr-only">What to read</legend>
      {all.map(({ id, label, categories }) => (
        <label key={id} className="chip has-checked:border-accent has-checked:bg-wash">
          <input
            type="radio"
            checked={id === chosen}
            onChange={() => choose(id)}
            title={categories.map((one) => CATEGORY_LABELS[one]).join(', ')}
          />
          {label}
          {categories.length > 0 && <span className="text-soft">{plural(categories.length, 'kind')}</span>}
        </label>
      ))}
    </fieldset>
  )
}

interface KindsProps {
  unread: readonly CategoryId[]
  chosen: CategoryId[]
  change: (chosen: CategoryId[]) => void
}

/** Kinds to choose from, by groups. */
export function Kinds({ unread, chosen, change }: KindsProps) {
  return (
    <div className="w-full space-y-1">
      {GROUPS.map((group) => {
        const all = categoriesIn(group).filter((one) => unread.includes(one))
        const others = chosen.filter((one) => !all.includes(one))
        return (
          all.length > 0 && (
            <Choices
              key={group}
              legend={GROUP_LABELS[group]}
              all={all}
              labels={CATEGORY_LABELS}
              chosen={chosen.filter((one) => all.includes(one))}
              change={(now) => change([...others, ...now])}
            />
          )
        )
      })}
    </div>
  )
}
