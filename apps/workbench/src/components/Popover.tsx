import { Suspense, useState } from 'react'
import { atRest } from './atRest'
import type { PopoverBoxProps } from './PopoverBox'

const PopoverBox = atRest(() => import('./PopoverBox').then((module) => module.PopoverBox))

type Props = Omit<PopoverBoxProps, 'open' | 'setOpen'> & {
  /** Absent: it opens and closes by itself. */
  open?: boolean
  setOpen?: (open: boolean) => void
}

/** What a button opens beside itself; Escape and a click elsewhere close it, and the focus goes back to the button. */
export function Popover({ triggerClass = 'button', open, setOpen, ...rest }: Props) {
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
