import {
  CARVED_CATEGORIES,
  CATEGORY_IDS,
  type CategoryId,
  PASSES,
  type Pass,
  USUAL_PASSES,
} from '@lumbrin/core/categories/types'
import { useState } from 'react'
import { sendJson, wordsOf } from '../../components/api'
import { CATEGORY_LABELS } from '../../components/labels'

const PASS_LABELS: Record<Pass, string> = {
  live: 'what the source shows',
  residue: 'deleted rows in its databases',
  carving: 'files inside of other bytes (pictures, films, sounds, documents)',
}

interface Props {
  sourceId: number
  wanted: CategoryId[]
  /** What was read before, as "category/pass": it is not read again. */
  finished: string[]
}

/** Chooses what a read takes in; preset from the brief. */
export function ReadForm({ sourceId, wanted, finished }: Props) {
  const isRead = (category: CategoryId) =>
    (CARVED_CATEGORIES.includes(category) ? PASSES : USUAL_PASSES).every((pass) =>
      finished.includes(`${category}/${pass}`),
    )
  const unread = CATEGORY_IDS.filter((category) => !isRead(category))
  const preset = wanted.filter((category) => !isRead(category))
  const [picked, setCategories] = useState<CategoryId[]>(preset.length > 0 || finished.length > 0 ? preset : unread)
  const categories = picked.filter((category) => !isRead(category))
  const [passes, setPasses] = useState<Pass[]>([...USUAL_PASSES])
  const [failed, setFailed] = useState('')
  if (unread.length === 0) return <p className="text-soft">Everything that can be read of this source is in the job.</p>
  const start = async (event: React.FormEvent) => {
    event.preventDefault()
    setFailed('')
    try {
      await sendJson('POST', `/api/sources/${sourceId}/reads`, { categories, passes })
    } catch (thrown) {
      setFailed(wordsOf(thrown))
    }
  }
  return (
    <form onSubmit={start} className="flex flex-wrap items-center gap-x-6 gap-y-2">
      <Choices legend="Read" all={unread} labels={CATEGORY_LABELS} chosen={categories} change={setCategories} />
      <Choices legend="Passes" all={PASSES} labels={PASS_LABELS} chosen={passes} change={setPasses} />
      <button type="submit" className="button button-main" disabled={categories.length === 0 || passes.length === 0}>
        Start reading
      </button>
      {failed && (
        <p className="notice w-full" role="alert">
          {failed}
        </p>
      )}
    </form>
  )
}

interface ChoicesProps<T extends string> {
  legend: string
  all: readonly T[]
  labels: Record<T, string>
  chosen: T[]
  change: (chosen: T[]) => void
}

function Choices<T extends string>({ legend, all, labels, chosen, change }: ChoicesProps<T>) {
  return (
    <fieldset className="flex flex-wrap items-center gap-x-4 gap-y-1">
      <legend className="sr-only">{legend}</legend>
      <span aria-hidden="true" className="text-soft">
        {legend}
      </span>
      {all.map((id) => (
        <label key={id} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-(--accent)"
            checked={chosen.includes(id)}
            onChange={(event) =>
              change(
                event.target.checked
                  ? all.filter((one) => one === id || chosen.includes(one))
                  : chosen.filter((one) => one !== id),
              )
            }
          />
          {labels[id]}
        </label>
      ))}
    </fieldset>
  )
}
