import { Dialog as Primitive } from 'radix-ui'
import type { DialogProps } from './Dialog'

/** The window of a dialog. */
export function DialogBox({
  label,
  close,
  className = '',
  onKeyDown,
  children,
  back,
}: DialogProps & { back: () => void }) {
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
