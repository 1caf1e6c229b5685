import { Popover as Primitive } from 'radix-ui'
import type { PopoverProps } from './Popover'

/** An open popover, or one that was open before. */
export function PopoverBox(props: PopoverProps & { open: boolean; setOpen: (open: boolean) => void }) {
  const { trigger, triggerClass, title, label, open, setOpen, className = '', children } = props
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
