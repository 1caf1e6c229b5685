interface Props {
  /** True: only what is gone from the device; null: neither all that, nor everything. */
  lost: boolean | null
  change: (lost: boolean) => void
}

/** Whether a list shows what is gone from the device, or everything. */
export function LostOrAll({ lost, change }: Props) {
  return (
    <fieldset className="flex">
      <legend className="sr-only">Lost or all</legend>
      <Segment label="Lost" pressed={lost === true} press={() => change(true)} />
      <Segment label="All" pressed={lost === false} press={() => change(false)} />
    </fieldset>
  )
}

function Segment({ label, pressed, press }: { label: string; pressed: boolean; press: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      onClick={press}
      className="border border-rule px-3 py-1 first-of-type:rounded-l first-of-type:border-r-0 last-of-type:rounded-r aria-pressed:border-accent aria-pressed:bg-wash aria-pressed:font-semibold"
    >
      {label}
    </button>
  )
}
