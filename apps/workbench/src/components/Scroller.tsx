import type { ReactNode } from 'react'

/** A region that scrolls and may hold nothing that takes the focus: it takes it itself, so that the keyboard moves it. */
export function Scroller({ label, className, children }: { label: string; className: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
    <section aria-label={label} tabIndex={0} className={className}>
      {children}
    </section>
  )
}
