import type { CategoryId } from '@lumbrin/core/categories/registry'
import { columnsOffered, wordsOfField } from './columns'

interface Props {
  category: CategoryId
  columns: readonly string[]
  choose: (columns: string[]) => void
}

/** Which fields a list shows as columns. */
export function ColumnPicker({ category, columns, choose }: Props) {
  return (
    <details className="relative justify-self-end">
      <summary className="cursor-pointer list-none hover:text-ink" title="Choose columns" aria-label="Columns">
        Columns
      </summary>
      <div className="absolute right-0 z-10 mt-1 w-44 rounded border border-rule bg-paper p-2 text-ink shadow">
        {columnsOffered(category).map((name) => (
          <label key={name} className="flex items-center gap-2 py-0.5">
            <input
              type="checkbox"
              checked={columns.includes(name)}
              onChange={({ target }) =>
                choose(target.checked ? [...columns, name] : columns.filter((one) => one !== name))
              }
            />
            {wordsOfField(name)}
          </label>
        ))}
      </div>
    </details>
  )
}
