import { Dialog as Primitive } from 'radix-ui'
import type { KeyboardEvent, ReactNode } from 'react'

export interface DialogBoxProps {
  /** Its name for those who listen to the page. */
  label: string
  close: () => void
  /** Where it stands and how wide it is; in the middle if absent. */
  className?: string
  onKeyDown?: (event: KeyboardEvent) => void
  /** Gives the focus back to where it was. */
  back: () => void
  children: ReactNode
}

/** The window of a dialog. */
export function DialogBox({ label, close, className = '', onKeyDown, children, back }: DialogBoxProps) {
  return (
    <Primitive.Root open onOpenChange={(open) => !open && close()}>
      <Primitive.Portal>
        <Primitive.Overlay className="dialog-shade">
          <Primitive.Content
            aria-describedby={undefined}
            className={`dialog ${className}`}
            onCloseAutoFocus={(event) => {
              event.preventDefault()
              back()
            }}
            {...(onKeyDown ? { onKeyDown } : {})}
          >
            <Primitive.Title className="sr-only">{label}</Primitive.Title>
            {children}
          </Primitive.Content>
        </Primitive.Overlay>
      </Primitive.Portal>
    </Primitive.Root>
  )
}
