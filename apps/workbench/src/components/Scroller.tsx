import type { ReactNode, Ref } from 'react'

interface Props {
  label: string
  className: string
  ref?: Ref<HTMLElement>
  children: ReactNode
}

/** A region that scrolls and may hold nothing that takes the focus: it takes it itself, so that the keyboard moves it. */
export function Scroller({ label, className, ref, children }: Props) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
    <section ref={ref} aria-label={label} tabIndex={0} className={className}>
      {children}
    </section>
  )
}
