import { Popover as Primitive } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
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
export function Popover({
  trigger,
  triggerClass = 'button',
  title,
  label,
  open,
  setOpen,
  className = '',
  children,
}: Props) {
  return (
    <Primitive.Root {...(open === undefined ? {} : { open })} {...(setOpen ? { onOpenChange: setOpen } : {})}>
      <Primitive.Trigger className={triggerClass} title={title}>
        {trigger}
      </Primitive.Trigger>
      <Primitive.Portal>
        <Primitive.Content
          aria-label={label}
          align="end"
          sideOffset={4}
          collisionPadding={8}
          className={`popover ${className}`}
        >
          {children}
        </Primitive.Content>
      </Primitive.Portal>
    </Primitive.Root>
  )
}
