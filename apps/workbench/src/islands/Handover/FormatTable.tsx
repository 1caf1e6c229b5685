import type { CategoryId } from '@lumbrin/core/categories/registry'
import { CATEGORY_LABELS } from '../../domain/labels'

/** A format as it can be chosen. */
export interface FormatChoice {
  id: string
  label: string
}

interface Props {
  categories: readonly CategoryId[]
  offered: Record<CategoryId, FormatChoice[]>
  chosen: Partial<Record<CategoryId, string[]>>
  choose: (category: CategoryId, formats: string[]) => void
}

/** What each kind of item in the tray is written as. */
export function FormatTable({ categories, offered, chosen, choose }: Props) {
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Kind</th>
          <th>Written as</th>
        </tr>
      </thead>
      <tbody>
        {categories.map((category) => {
          const formats = chosen[category] ?? []
          return (
            <tr key={category}>
              <th scope="row" className="align-top font-semibold whitespace-nowrap">
                {CATEGORY_LABELS[category]}
              </th>
              <td>
                <span className="flex flex-wrap gap-x-4 gap-y-1">
                  {offered[category].map(({ id, label }) => (
                    <label key={id} className="inline-flex items-center gap-1.5">
                      <input
                        type="checkbox"
                        checked={formats.includes(id)}
                        onChange={({ target }) =>
                          choose(category, target.checked ? [...formats, id] : formats.filter((one) => one !== id))
                        }
                      />
                      {label}
                    </label>
                  ))}
                </span>
                {formats.length === 0 && <span className="text-partial">Choose at least one.</span>}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}
