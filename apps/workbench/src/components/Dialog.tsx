import { Dialog as Primitive } from 'radix-ui'
import { type KeyboardEvent, type ReactNode, useState } from 'react'

interface Props {
  /** Its name for those who listen to the page. */
  label: string
  close: () => void
  /** Where it stands and how wide it is; in the middle if absent. */
  className?: string
  onKeyDown?: (event: KeyboardEvent) => void
  children: ReactNode
}

/** A window over the page, which holds the focus until it is closed: with Escape, beside it, or by what it holds. */
export function Dialog({ label, close, className = '', onKeyDown, children }: Props) {
  const [before] = useState(() => document.activeElement)
  return (
    <Primitive.Root open onOpenChange={(open) => !open && close()}>
      <Primitive.Portal>
        <Primitive.Overlay className="dialog-shade">
          <Primitive.Content
            aria-describedby={undefined}
            className={`dialog ${className}`}
            onCloseAutoFocus={(event) => {
              // The focus goes back to where it was, which need not be a button of the dialog's own.
              event.preventDefault()
              if (before instanceof HTMLElement) before.focus()
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

/** A button that closes the dialog it stands in. */
export const CloseButton = ({ className = '' }: { className?: string }) => (
  <Primitive.Close className={`button ${className}`}>Close</Primitive.Close>
)
