import { type ReactNode, Suspense, useState } from 'react'
import { atRest } from './atRest'

const PopoverBox = atRest(() => import('./PopoverBox').then((module) => module.PopoverBox))

export interface PopoverProps {
  /** What stands on the button that opens it. */
  trigger: ReactNode
  triggerClass?: string
  title?: string
  /** Its name for those who listen to the page. */
  label: string
  /** Absent: it opens and closes by itself. */
  open?: boolean
  setOpen?: (open: boolean) => void
  className?: string
  children: ReactNode
}

/** What a button opens beside itself; Escape and a click elsewhere close it, and the focus goes back to the button. */
export function Popover({ triggerClass = 'button', open, setOpen, ...rest }: PopoverProps) {
  const [own, setOwn] = useState(false)
  const [used, setUsed] = useState(false)
  const isOpen = open ?? own
  const change = setOpen ?? setOwn
  if (isOpen && !used) setUsed(true)
  const closed = (
    <button
      type="button"
      className={triggerClass}
      title={rest.title}
      aria-haspopup="dialog"
      aria-expanded={false}
      onClick={() => change(true)}
    >
      {rest.trigger}
    </button>
  )
  if (!used) return closed
  return (
    <Suspense fallback={closed}>
      <PopoverBox {...rest} triggerClass={triggerClass} open={isOpen} setOpen={change} />
    </Suspense>
  )
}
