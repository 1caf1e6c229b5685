interface ChoicesProps<T extends string> {
  legend: string
  all: readonly T[]
  labels: Record<T, string>
  chosen: T[]
  change: (chosen: T[]) => void
}

/** Some of a list, each with a box to check. */
export function Choices<T extends string>({ legend, all, labels, chosen, change }: ChoicesProps<T>) {
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
