import { Popover as Primitive } from 'radix-ui'
import type { ReactNode } from 'react'

export interface PopoverBoxProps {
  /** What stands on the button that opens it. */
  trigger: ReactNode
  triggerClass?: string
  title?: string | undefined
  /** Its name for those who listen to the page. */
  label: string
  open: boolean
  setOpen: (open: boolean) => void
  className?: string
  children: ReactNode
}

/** An open popover, or one that was open before. */
export function PopoverBox({
  trigger,
  triggerClass,
  title,
  label,
  open,
  setOpen,
  className = '',
  children,
}: PopoverBoxProps) {
  return (
    <Primitive.Root open={open} onOpenChange={setOpen}>
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
