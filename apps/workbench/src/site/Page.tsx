import { type ReactNode, type Ref, useEffect } from 'react'
import { Failure } from '../components/Failure'
import { useStart } from './useParts'

interface HeadProps {
  title: string
  /** Words beside the title. */
  words?: ReactNode
  children?: ReactNode
}

/** The head of a page: what it is, and what can be done with all of it. */
export function PageHead({ title, words, children }: HeadProps) {
  const { title: ofPackage } = useStart()
  useEffect(() => {
    document.title = `${title} · ${ofPackage}`
  }, [title, ofPackage])
  return (
    <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-5 pt-4 pb-3">
      <h1 dir="auto" className="min-w-0 text-xl break-words">
        {title}
      </h1>
      {words && <p className="text-soft">{words}</p>}
      {children && <div className="ml-auto flex flex-wrap gap-2">{children}</div>}
    </div>
  )
}

/** A stretch of a page that scrolls. */
export function Scrolled({ label, ref, children }: { label: string; ref?: Ref<HTMLElement>; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by the keyboard
    <section ref={ref} aria-label={label} tabIndex={0} className="min-h-0 flex-1 overflow-y-auto px-5 pb-10">
      {children}
    </section>
  )
}

/** What stands in a page's place while its part is loaded, or cannot be. */
export function Waiting({ error }: { error: unknown }) {
  return (
    <div className="p-5">
      {error ? (
        <Failure>{error instanceof Error ? error.message : String(error)}</Failure>
      ) : (
        <p className="text-soft">Loading …</p>
      )}
    </div>
  )
}
