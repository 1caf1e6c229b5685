import { labelOfField } from '@lumbrin/core/categories/field-words'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { Popover } from '../../components/Popover'
import { columnsOffered } from './columns'

interface Props {
  category: CategoryId
  columns: readonly string[]
  choose: (columns: string[]) => void
}

/** Which fields a list shows as columns. */
export function ColumnPicker({ category, columns, choose }: Props) {
  return (
    <Popover trigger="Columns" triggerClass="hover:text-ink" title="Choose columns" label="Columns" className="w-44">
      {columnsOffered(category).map((name) => (
        <label key={name} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            checked={columns.includes(name)}
            onChange={({ target }) =>
              choose(target.checked ? [...columns, name] : columns.filter((one) => one !== name))
            }
          />
          {labelOfField(name)}
        </label>
      ))}
    </Popover>
  )
}
